import { Choice } from '../../components/Choice.tsx';
import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { ChatSettings } from './definition.ts';

export default function ChatForm({ stepId, settings, change, desk, plan, sampleName }: StepFormProps<ChatSettings>) {
  return (
    <>
      <p className="mb-3 text-[13px] text-ink-2">
        To <span className="chip">Phone</span> from {desk.chat?.from || 'no chat network yet'}. A chat network lets us
        write freely for 24 hours after they last wrote there; outside that it refuses, and “If it fails” says what
        then.
      </p>
      <TokenField
        key={stepId}
        name="message"
        label="Message"
        value={settings.message}
        onChange={(message) => change({ message })}
      />
      <Choice
        label="Sent instead, where “If it fails” says another way"
        field="template"
        value={settings.template}
        options={[
          ['', 'A text of the same words'],
          ...desk.chatTemplates.map(
            (one) => [one.id, `Template: ${one.name}${one.approved ? '' : ' (not approved)'}`] as const,
          ),
        ]}
        onChange={(template) => change({ template })}
      />
      <ConsentChoice
        what="chat messages"
        needsConsent={settings.needsConsent}
        onChange={(needsConsent) => change({ needsConsent })}
      />
      <h3 className="mt-4 mb-1.5 font-sans text-[13px] font-semibold text-ink-2">What {sampleName} gets</h3>
      <MessagePreview plan={plan} name={sampleName} />
    </>
  );
}
