import { bound } from '../../components/bound.ts';
import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { Choice } from '../../components/fields.tsx';
import { WhatTheyGet } from '../../components/MessagePreview.tsx';
import { chatTemplateOptions } from '../chat-template-options.ts';
import type { StepFormProps } from '../step-form.ts';
import type { ChatTemplateSettings } from './definition.ts';

export default function ChatTemplateForm(form: StepFormProps<ChatTemplateSettings>) {
  const { settings, change, catalogue, plan, sampleName } = form;
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
      <Choice label="Chat template" {...of('template')} options={chatTemplateOptions(catalogue)} />
      <ConsentChoice
        what="chat messages"
        needsConsent={settings.needsConsent}
        purpose={settings.purpose}
        onChange={change}
      />
      <WhatTheyGet plan={plan} name={sampleName} />
    </>
  );
}
