import { templateValues, templateWords } from '../core/message/chat-template.ts';
import { PHONE_PROBLEMS, readPhone } from '../core/people/phone.ts';
import { readReference, referenceLabel } from '../core/template/field-reference.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { templateScope } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { mayNotWrite } from './may-write.ts';

/** An approved template to the lead's number, whether or not they have written before. */
export function planChatTemplate(
  settings: { template: string; needsConsent: boolean },
  { context, desk }: PlanInput,
): Plan {
  const stopped = mayNotWrite(context, 'chat', settings.needsConsent);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!desk.chat) return { does: 'ask', why: { code: 'no_sender', text: 'No chat network is connected' } };
  const template = desk.chatTemplates.find((one) => one.id === settings.template);
  if (!template)
    return { does: 'ask', why: { code: 'gone', text: 'The chat template of this step is no longer there' } };
  if (!template.approved)
    return { does: 'ask', why: { code: 'gone', text: `The chat template ${template.name} is not approved` } };
  if (context.person.phone.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No phone number was given', channel: 'chat' } };
  const phone = readPhone(context.person.phone, context.business.country);
  if (!phone.ok) {
    const text = `No chat message: ${PHONE_PROBLEMS[phone.problem]} (${context.person.phone})`;
    return { does: 'ask', why: { code: 'bad_address', text, channel: 'chat' } };
  }
  const { remoteId, content } = template.approved;
  const scope = templateScope(context);
  const values = templateValues(content, scope);
  if (!values.ok) {
    const read = readReference(values.empty);
    const name = read ? referenceLabel(read) : values.empty;
    return { does: 'nothing', why: { code: 'empty', text: `Not sent: the template needs ${name}, and it is empty` } };
  }
  return {
    does: 'send',
    message: {
      channel: 'chat',
      audience: 'lead',
      to: phone.e164,
      from: desk.chat.from,
      text: templateWords(content, scope),
      template: { id: remoteId, fields: values.fields },
      buttons: content.buttons,
    },
  };
}
