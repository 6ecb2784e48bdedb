import Plus from 'lucide-react/icons/plus';
import { bound } from '../../components/bound.ts';
import { Bare, Choice, Line } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TakeAway } from '../../components/row-buttons.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { keptKey } from '../kept-key.ts';
import type { StepFormProps } from '../step-form.ts';
import type { CallServiceSettings } from './definition.ts';

type Pair = CallServiceSettings['fields'][number];

export default function CallServiceForm(form: StepFormProps<CallServiceSettings>) {
  const { stepId, settings, change, plan, sampleName } = form;
  const of = bound(settings, change);
  return (
    <>
      <Line
        label="Name of the service"
        field="name"
        value={settings.name}
        maxLength={40}
        placeholder="Room planner"
        onChange={(name) => change({ name, key: keptKey(settings, stepId) })}
      />
      <TokenField label="Address" single {...of('address')} />
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Method"
          {...of('method')}
          options={(['GET', 'POST', 'PUT', 'DELETE'] as const).map((one) => [one, one] as const)}
        />
        <Choice
          label="Sends"
          {...of('body')}
          options={[
            ['json', 'JSON'],
            ['form', 'Form fields'],
            ['none', 'Nothing'],
          ]}
        />
      </div>
      {settings.body !== 'none' && settings.method !== 'GET' && settings.method !== 'DELETE' && (
        <Pairs
          title="Fields it sends"
          stepId={`${stepId}-fields`}
          pairs={settings.fields}
          onChange={(fields) => change({ fields })}
        />
      )}
      <Pairs
        title="Headers"
        stepId={`${stepId}-headers`}
        pairs={settings.headers}
        onChange={(headers) => change({ headers })}
      />
      <h3 className="field-label">What of its JSON answer is kept</h3>
      {settings.keep.map((one, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own
        <div key={i} className="mb-1.5 flex gap-1">
          <Bare
            tiny
            label="As"
            placeholder="Name"
            value={one.name}
            onChange={(typed) =>
              change({
                keep: settings.keep.map((k, n) =>
                  n === i ? { ...k, name: typed, key: keptKey(k, `kept_${i}_${stepId.slice(-4)}`) } : k,
                ),
              })
            }
          />
          <Bare
            tiny
            label="Where it stands in the answer"
            className="font-mono"
            placeholder="company.name"
            value={one.path}
            onChange={(typed) => change({ keep: settings.keep.map((k, n) => (n === i ? { ...k, path: typed } : k)) })}
          />
          <RemoveButton onClick={() => change({ keep: settings.keep.filter((_, n) => n !== i) })} />
        </div>
      ))}
      <AddButton
        label="Keep a value"
        onClick={() => change({ keep: [...settings.keep, { name: '', key: '', path: '' }] })}
      />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

function Pairs({
  title,
  stepId,
  pairs,
  onChange,
}: {
  title: string;
  stepId: string;
  pairs: Pair[];
  onChange: (pairs: Pair[]) => void;
}) {
  const set = (i: number, patch: Partial<Pair>) =>
    onChange(pairs.map((pair, n) => (n === i ? { ...pair, ...patch } : pair)));
  return (
    <section className="mb-3">
      <h3 className="field-label">{title}</h3>
      {pairs.map((pair, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own
        <div key={i} className="mb-1.5 flex items-start gap-1">
          <Bare
            label={`${title}: name`}
            className="font-mono"
            style={{ width: '8rem' }}
            placeholder="name"
            value={pair.name}
            onChange={(typed) => set(i, { name: typed })}
          />
          <div className="min-w-0 grow">
            <TokenField
              field={`${stepId}.${i}`}
              label={`Value of ${pair.name || 'this field'}`}
              single
              value={pair.value}
              onChange={(value) => set(i, { value })}
            />
          </div>
          <RemoveButton onClick={() => onChange(pairs.filter((_, n) => n !== i))} />
        </div>
      ))}
      <AddButton label={`Add to: ${title}`} onClick={() => onChange([...pairs, { name: '', value: '' }])} />
    </section>
  );
}

function AddButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button type="button" className="btn btn-ghost btn-xs" aria-label={label} onClick={onClick}>
      <Plus className="size-3.5" aria-hidden="true" />
      Add
    </button>
  );
}

function RemoveButton({ onClick }: { onClick: () => void }) {
  return <TakeAway label="Remove" onClick={onClick} />;
}
