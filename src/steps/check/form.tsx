import { bound } from '../../components/bound.ts';
import { ConditionEditor } from '../../components/ConditionEditor.tsx';
import { Choice, Line } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { CheckSettings } from './definition.ts';

export default function CheckForm({ settings, change, catalogue, plan, sampleName }: StepFormProps<CheckSettings>) {
  const of = bound(settings, change);
  return (
    <>
      <ConditionEditor
        label="Go on only if"
        value={settings.condition}
        catalogue={catalogue}
        onChange={(condition) => change({ condition: condition ?? { all: [] } })}
      />
      <Choice
        label="If it does not hold"
        {...of('ends')}
        options={[
          ['run', 'End here: nothing more for this lead'],
          ['moment', 'Leave out this moment, go on with the next'],
        ]}
      />
      <Line label="Short name, for the sheet" {...of('name')} maxLength={60} placeholder="Agreed to texts" />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
