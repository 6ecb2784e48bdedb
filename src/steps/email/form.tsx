import { bound } from '../../components/bound.ts';
import { Tick } from '../../components/fields.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import { EmailFields } from '../email-fields.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { EmailSettings } from './definition.ts';

export default function EmailForm({
  stepId,
  settings,
  change,
  catalogue,
  plan,
  sampleName,
}: StepFormProps<EmailSettings>) {
  const of = bound(settings, change);
  return (
    <>
      <p className="mb-3 text-note text-ink-2">
        To <span className="chip">Email</span> from{' '}
        {catalogue.email ? `${catalogue.email.fromName}, ${catalogue.email.fromAddress}` : 'no mail server yet'}
      </p>
      <EmailFields stepId={stepId} settings={settings} change={change} catalogue={catalogue} />
      <Tick label="Do not send it yet: one of us reads it first" {...of('draft')} />
      <h3 className="mt-4 mb-1.5 font-sans text-note font-semibold text-ink-2">What {sampleName} gets</h3>
      <MessagePreview plan={plan} name={sampleName} laidOut={settings.template !== ''} />
    </>
  );
}
