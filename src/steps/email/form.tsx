import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { EmailSettings } from './definition.ts';

const MORE = [
  { name: 'fromName', label: 'From, instead of the usual name' },
  { name: 'replyTo', label: 'Replies go to' },
  { name: 'cc', label: 'Copy to (seen by all)' },
  { name: 'bcc', label: 'Copy to (not seen)' },
  { name: 'preheader', label: 'Behind the subject in the inbox' },
] as const;

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
      <details className="mb-3">
        <summary className="cursor-pointer text-[13px] text-ink-2">Sender, reply address, copies</summary>
        <div className="mt-2">
          {MORE.map(({ name, label }) => (
            <TokenField
              key={`${stepId}-${name}`}
              name={name}
              label={label}
              single
              value={settings[name]}
              onChange={(value) => change({ [name]: value })}
            />
          ))}
        </div>
      </details>
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
