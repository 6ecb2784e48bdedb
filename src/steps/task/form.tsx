import { ColleagueChoice } from '../../components/ColleagueChoice.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { SpanInput } from '../../components/SpanInput.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TaskSettings } from './definition.ts';

export default function TaskForm({ stepId, settings, change, desk, plan, sampleName }: StepFormProps<TaskSettings>) {
  return (
    <>
      <TokenField
        key={stepId}
        name="title"
        label="What is to be done"
        single
        value={settings.title}
        onChange={(title) => change({ title })}
      />
      <ColleagueChoice
        label="By whom"
        value={settings.colleague}
        desk={desk}
        nobody="Whoever is free"
        onChange={(colleague) => change({ colleague })}
      />
      <SpanInput label="Within" value={settings.within} onChange={(within) => change({ within })} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
