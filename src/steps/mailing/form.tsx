import { bound } from '../../components/bound.ts';
import { Choice } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ReachNote } from '../../components/ReachNote.tsx';
import { EmailFields } from '../email-fields.tsx';
import type { StepFormProps } from '../step-form.ts';
import { audienceChoices, type MailingSettings } from './definition.ts';

export default function MailingForm(form: StepFormProps<MailingSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  return (
    <>
      <Choice label="Who gets it" {...of('to')} options={audienceChoices(catalogue)} />
      <ReachNote to={settings.to} needsConsent={settings.needsConsent} purpose={settings.purpose} />
      <EmailFields stepId={stepId} settings={settings} change={change} catalogue={catalogue} />
      <p className="mb-2 text-note text-ink-2">
        Fields of the lead are each reader’s own; form answers and what happened are those of what set this off.
      </p>
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
