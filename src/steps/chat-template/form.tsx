import { bound } from '../../components/bound.ts';
import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { Choice } from '../../components/fields.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { ChatTemplateSettings } from './definition.ts';

export default function ChatTemplateForm({
  settings,
  change,
  catalogue,
  plan,
  sampleName,
}: StepFormProps<ChatTemplateSettings>) {
  const of = bound(settings, change);
  return (
    <>
      <p className="mb-3 text-note text-ink-2">
        To <span className="chip">Phone</span>. A chat network lets a business begin only with a message it has
        approved; they are written under{' '}
        <a className="link" href="/messages/chat-templates">
          Chat templates
        </a>
        .
      </p>
      <Choice
        label="Chat template"
        {...of('template')}
        options={[
          ['', 'Choose a chat template'],
          ...catalogue.chatTemplates.map(
            (chatTemplate) =>
              [
                chatTemplate.id,
                chatTemplate.approved ? chatTemplate.name : `${chatTemplate.name} (not approved)`,
              ] as const,
          ),
        ]}
      />
      <ConsentChoice
        what="chat messages"
        needsConsent={settings.needsConsent}
        purpose={settings.purpose}
        onChange={change}
      />
      <h3 className="mt-4 mb-1.5 font-sans text-note font-semibold text-ink-2">What {sampleName} gets</h3>
      <MessagePreview plan={plan} name={sampleName} />
    </>
  );
}
