import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { EmailSettings } from './definition.ts';

export default function EmailForm({ stepId, settings, change, desk, plan, sampleName }: StepFormProps<EmailSettings>) {
  return (
    <>
      <p className="mb-3 text-[13px] text-ink-2">
        To <span className="chip">Email</span> from{' '}
        {desk.email ? `${desk.email.fromName}, ${desk.email.fromAddress}` : 'no mail server yet'}
      </p>
      <TokenField
        key={`${stepId}-subject`}
        name="subject"
        label="Subject"
        single
        value={settings.subject}
        onChange={(subject) => change({ subject })}
      />
      <TokenField
        key={`${stepId}-message`}
        name="message"
        label="Message"
        value={settings.message}
        onChange={(message) => change({ message })}
      />
      <ConsentChoice
        what="email"
        needsConsent={settings.needsConsent}
        onChange={(needsConsent) => change({ needsConsent })}
      />
      <h3 className="mt-4 mb-1.5 font-sans text-[13px] font-semibold text-ink-2">What {sampleName} gets</h3>
      <MessagePreview plan={plan} name={sampleName} />
    </>
  );
}
