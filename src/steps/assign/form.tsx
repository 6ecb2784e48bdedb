import { useId } from 'react';
import { bound } from '../../components/bound.ts';
import { FieldChoice } from '../../components/FieldChoice.tsx';
import { Bare, Choice, Tick } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { AddOne, TakeAway } from '../../components/row-buttons.tsx';
import { TakesTurns } from '../../components/TakesTurns.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { AssignSettings } from './definition.ts';

export default function AssignForm({ settings, change, catalogue, plan, sampleName }: StepFormProps<AssignSettings>) {
  const of = bound(settings, change);
  const byField = settings.by === 'field';
  return (
    <>
      <Choice
        label="Who gets the lead"
        {...of('by')}
        options={[
          ['turn', 'The next in turn'],
          ['field', 'Whoever a field names'],
        ]}
      />
      {byField && <ByField settings={settings} change={change} catalogue={catalogue} />}
      <TakesTurns
        label={byField ? 'When it names none of them, the next of' : 'Who takes turns'}
        value={settings.among}
        catalogue={catalogue}
        onChange={(among) => change({ among })}
      />
      <Tick label="Somebody who has an owner keeps them" {...of('keep')} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

function ByField({
  settings,
  change,
  catalogue,
}: Pick<StepFormProps<AssignSettings>, 'settings' | 'change' | 'catalogue'>) {
  const of = bound(settings, change);
  const id = useId();
  const { owners } = settings;
  const set = (i: number, patch: Partial<(typeof owners)[number]>) =>
    change({ owners: owners.map((owner, at) => (at === i ? { ...owner, ...patch } : owner)) });
  return (
    <fieldset className="mb-3" data-field="owners">
      <legend className="field-label">The field</legend>
      <FieldChoice label="The field that names them" {...of('field')} />
      {owners.map((owner, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines have no name of their own
        <div key={`${id}-${i}`} className="mt-1.5 flex items-center gap-1">
          <Bare
            label={`Value ${i + 1}`}
            placeholder="Piano"
            maxLength={200}
            value={owner.value}
            onChange={(typed) => set(i, { value: typed })}
          />
          <span className="text-note text-ink-2">to</span>
          <select
            className="select select-sm"
            aria-label={`Who gets value ${i + 1}`}
            value={owner.colleague}
            onChange={(event) => set(i, { colleague: event.target.value })}
          >
            <option value="">Choose who</option>
            {catalogue.colleagues.map((who) => (
              <option key={who.id} value={who.id}>
                {who.name}
              </option>
            ))}
          </select>
          <TakeAway
            label={`Remove value ${i + 1}`}
            onClick={() => change({ owners: owners.filter((_, at) => at !== i) })}
          />
        </div>
      ))}
      <AddOne className="mt-1" onClick={() => change({ owners: [...owners, { value: '', colleague: '' }] })}>
        Add a value
      </AddOne>
    </fieldset>
  );
}
