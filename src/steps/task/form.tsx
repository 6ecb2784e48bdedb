import { bound } from '../../components/bound.ts';
import { ColleagueChoice } from '../../components/ColleagueChoice.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { SpanInput } from '../../components/SpanInput.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TaskSettings } from './definition.ts';

export default function TaskForm({ settings, change, catalogue, plan, sampleName }: StepFormProps<TaskSettings>) {
  const of = bound(settings, change);
  return (
    <>
      <TokenField label="What is to be done" single {...of('title')} />
      <ColleagueChoice label="By whom" {...of('colleague')} catalogue={catalogue} nobody="Whoever is free" />
      <SpanInput label="Within" {...of('within')} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
