import { FieldChoice } from '../../components/FieldChoice.tsx';
import { Bare, Tick } from '../../components/fields.tsx';
import { AddOne, TakeAway } from '../../components/row-buttons.tsx';
import { TIDYING_NAMES, tidyingOf } from '../../core/tidying/tidyings.ts';
import { changeLabel } from '../../core/workflow/plan.ts';
import type { StepFormProps } from '../step-form.ts';
import { SPLIT_NAME, type TidyMore, type TidySettings, tidyingLabel } from './definition.ts';

const CHOICES: { key: 'names' | 'email' | 'phone'; label: string; about: string }[] = [
  { key: 'names', label: 'Names', about: 'spaces out, capitals where names have them' },
  { key: 'email', label: 'Email', about: 'spaces out, small letters, checked' },
  { key: 'phone', label: 'Phone', about: 'written with country code, checked' },
];

export default function TidyForm({ settings, change, plan, sampleName }: StepFormProps<TidySettings>) {
  const set = (index: number, patch: Partial<TidyMore>) =>
    change({ more: settings.more.map((one, i) => (i === index ? { ...one, ...patch } : one)) });
  return (
    <>
      {CHOICES.map(({ key, label, about }) => (
        <Tick
          key={key}
          label={
            <span>
              <span className="font-semibold">{label}</span> <span className="text-ink-2">{about}</span>
            </span>
          }
          block="mb-2 flex items-center gap-2"
          value={settings[key]}
          onChange={(on) => change({ [key]: on })}
        />
      ))}
      <fieldset className="mt-3 mb-2" data-field="more">
        <legend className="field-label">And then, one after another</legend>
        {settings.more.map((one, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: tidyings have no name of their own
          <div key={index} className="mb-1.5 flex items-start gap-1" data-testid="tidying">
            <div className="min-w-0 grow rounded-lg border border-base-300 p-1.5">
              <div className="grid grid-cols-2 gap-1">
                <FieldChoice
                  label="Which field"
                  value={one.field}
                  groups={['lead', 'answers']}
                  onChange={(field) => set(index, { field })}
                />
                <select
                  className="select select-xs"
                  aria-label="What is done"
                  value={one.do}
                  onChange={(event) => set(index, { do: event.target.value as TidyMore['do'] })}
                >
                  {[...TIDYING_NAMES, SPLIT_NAME as typeof SPLIT_NAME].map((name) => (
                    <option key={name} value={name}>
                      {tidyingLabel(name)}
                    </option>
                  ))}
                </select>
              </div>
              <Takes one={one} onChange={(patch) => set(index, patch)} />
            </div>
            <TakeAway
              label="Remove this tidying"
              onClick={() => change({ more: settings.more.filter((_, i) => i !== index) })}
            />
          </div>
        ))}
        <AddOne onClick={() => change({ more: [...settings.more, { field: '', do: 'trim', from: '', to: '', n: 1 }] })}>
          Add a tidying
        </AddOne>
      </fieldset>
      {plan?.does === 'change' && (
        <>
          <h3 className="mt-4 mb-1.5 font-sans text-note font-semibold text-ink-2">With {sampleName}</h3>
          <table className="table table-xs">
            <thead>
              <tr>
                <th>Field</th>
                <th>As typed</th>
                <th>After tidying</th>
              </tr>
            </thead>
            <tbody>
              {plan.changes.map((change) => (
                <tr key={change.field}>
                  <td className="font-semibold">{changeLabel(change.field)}</td>
                  <td className="break-all">{change.before}</td>
                  <td className="break-all">
                    <span className={change.after === change.before ? '' : 'rounded bg-brass-soft px-1'}>
                      {change.after}
                    </span>
                    {change.problem && <span className="text-warning"> {change.problem}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}

function Takes({ one, onChange }: { one: TidyMore; onChange: (patch: Partial<TidyMore>) => void }) {
  if (one.do === SPLIT_NAME) return null;
  const { takes } = tidyingOf(one.do);
  if (!takes.from && !takes.to && !takes.n) return null;
  return (
    <div className="mt-1 flex gap-1">
      {takes.n && (
        <input
          type="number"
          className="input input-xs"
          aria-label={takes.n}
          title={takes.n}
          value={one.n}
          onChange={(event) => onChange({ n: Math.round(Number(event.target.value)) || 1 })}
        />
      )}
      {takes.from && <Bare tiny label={takes.from} value={one.from} onChange={(typed) => onChange({ from: typed })} />}
      {takes.to && <Bare tiny label={takes.to} value={one.to} onChange={(typed) => onChange({ to: typed })} />}
    </div>
  );
}
