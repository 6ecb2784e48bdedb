import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { NoteSettings } from './definition.ts';

export default function NoteForm({ stepId, settings, change, plan, sampleName }: StepFormProps<NoteSettings>) {
  return (
    <>
      <TokenField key={stepId} name="text" label="Note" value={settings.text} onChange={(text) => change({ text })} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
