import { bound } from '../../components/bound.ts';
import { Tick } from '../../components/fields.tsx';
import { WhatTheyGet } from '../../components/MessagePreview.tsx';
import { EmailFields } from '../email-fields.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { EmailSettings } from './definition.ts';

export default function EmailForm(form: StepFormProps<EmailSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  return (
    <>
      <p className="mb-3 text-note text-ink-2">
        To <span className="chip">Email</span> from{' '}
        {catalogue.email ? `${catalogue.email.fromName}, ${catalogue.email.fromAddress}` : 'no mail server yet'}
      </p>
      <EmailFields stepId={stepId} settings={settings} change={change} catalogue={catalogue} />
      <Tick label="Do not send it yet: one of us reads it first" {...of('draft')} />
      <WhatTheyGet plan={plan} name={sampleName} laidOut={settings.template !== ''} />
    </>
  );
}
