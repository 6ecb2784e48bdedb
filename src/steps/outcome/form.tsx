import { bound } from '../../components/bound.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { OutcomeSettings } from './definition.ts';

export default function OutcomeForm({ settings, change, catalogue, plan, sampleName }: StepFormProps<OutcomeSettings>) {
  const of = bound(settings, change);
  const notes = settings.action === 'note';
  return (
    <>
      <Choice
        label="What"
        {...of('action')}
        options={[
          ['note', 'Count something that has happened'],
          ['take_back', 'Take it back: it has not happened after all'],
        ]}
      />
      <Line
        label="What it is called in results"
        {...of('name')}
        list="outcome-names"
        maxLength={60}
        placeholder="Trial lesson had"
        note="A new name begins to be counted with its first use."
      />
      <datalist id="outcome-names">
        {(catalogue.outcomes ?? []).map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      {notes && <TokenField label="Money that comes with it; empty for none" single {...of('amount')} />}
      {notes && settings.amount.trim() !== '' && (
        <Line label="Currency; empty for your own" {...of('currency')} maxLength={3} placeholder="EUR" />
      )}
      {notes && <TokenField label="When it happened; empty for now" single {...of('at')} />}
      <Choice
        label="How often it counts"
        {...of('once')}
        options={[
          ['arrival', 'With each arrival'],
          ['person', 'Once for a person'],
          ['key', 'Once for each value of a field'],
        ]}
      />
      {settings.once === 'key' && <TokenField label="Which field makes it one and the same" single {...of('key')} />}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
