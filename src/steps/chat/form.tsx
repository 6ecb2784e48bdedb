import { ButtonList } from '../../components/ButtonList.tsx';
import { bound } from '../../components/bound.ts';
import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { Choice } from '../../components/fields.tsx';
import { WhatTheyGet } from '../../components/MessagePreview.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { chatTemplateThings } from '../chat-template-things.ts';
import type { StepFormProps } from '../step-form.ts';
import { CHAT_MOST, type ChatSettings, WHEN_SHUT, type WhenShut, whenShutOf } from './definition.ts';

export default function ChatForm(form: StepFormProps<ChatSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  const shut = whenShutOf(settings);
  const buttons = settings.buttons ?? [];
  const field = (name: 'heading' | 'message' | 'closing' | 'subject', label: string) => (
    <TokenField
      key={`${stepId}:${name}`}
      field={name}
      label={label}
      single={name !== 'message'}
      value={settings[name] ?? ''}
      onChange={(value) => change({ [name]: value })}
    />
  );
  return (
    <>
      <p className="mb-3 text-note text-ink-2">
        To <span className="chip">Phone</span> from {catalogue.chat?.from || 'no chat network yet'}. A chat network lets
        us write freely for 24 hours after they last wrote there.
      </p>
      {field('message', 'Message')}
      <ThingChoice
        label="It opens a form"
        what="chat-form"
        field="form"
        value={settings.form ?? ''}
        others={[['', 'None']]}
        things={catalogue.chatForms.map(({ id, name, live }) => ({ id, name, about: live ? undefined : 'not live' }))}
        onChange={(form) => change({ form })}
      />
      <details className="mb-3" open={Boolean(settings.heading || settings.closing || buttons.length > 0)}>
        <summary className="cursor-pointer text-note font-semibold">Heading, closing line and buttons</summary>
        <div className="mt-2">
          {field('heading', 'Heading')}
          {field('closing', 'Closing line')}
          <ButtonList
            buttons={buttons}
            most={CHAT_MOST.buttons}
            longest={CHAT_MOST.button}
            field="buttons"
            onChange={(next) => change({ buttons: next })}
          />
        </div>
      </details>
      <Choice<WhenShut>
        label="If they have not written within 24 hours"
        field="whenShut"
        value={shut}
        options={Object.entries(WHEN_SHUT) as [WhenShut, string][]}
        onChange={(whenShut) => change({ whenShut })}
      />
      {shut === 'template' && (
        <ThingChoice
          label="Which chat template"
          what="chat-template"
          {...of('template')}
          things={chatTemplateThings(catalogue)}
          none="Choose a chat template"
        />
      )}
      {shut === 'email' && field('subject', 'Subject of the email')}
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
