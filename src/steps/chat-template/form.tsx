import { within } from '../../client/within.ts';
import { bound } from '../../components/bound.ts';
import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { WhatTheyGet } from '../../components/MessagePreview.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { chatTemplateThings } from '../chat-template-things.ts';
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
        <a className="link" href={within('/messages/chat-templates')}>
          Chat templates
        </a>
        .
      </p>
      <ThingChoice
        label="Chat template"
        what="chat-template"
        {...of('template')}
        things={chatTemplateThings(catalogue)}
        none="Choose a chat template"
      />
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
