import { bound } from '../../components/bound.ts';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { NoteSettings } from './definition.ts';

export default function NoteForm({ settings, change, plan, sampleName }: StepFormProps<NoteSettings>) {
  const of = bound(settings, change);
  return (
    <>
      <TokenField label="Note" {...of('text')} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
