import { templateValues, templateWords } from '../core/message/chat-template.ts';
import { readReference, referenceLabel } from '../core/template/field-reference.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { messageScope } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { chatNumbers, formToSend } from './chat-number.ts';
import type { ByConsent } from './may-write.ts';

/** An approved template to the lead's number, whether or not they have written before. */
export function planChatTemplate(settings: ByConsent & { template: string }, input: PlanInput): Plan {
  const { context, catalogue, now } = input;
  const template = catalogue.chatTemplates.find((chatTemplate) => chatTemplate.id === settings.template);
  const gone = (text: string): Plan => ({ does: 'ask', why: { code: 'gone', text } });
  // What wants to sell goes only to those who agreed to be sold to.
  const purpose = template?.approved?.content.kind === 'promotion' ? 'marketing' : settings.purpose;
  const numbers = chatNumbers({ ...settings, ...(purpose ? { purpose } : {}) }, input);
  if ('does' in numbers) return numbers;
  if (settings.template === '') return gone('Choose the chat template of this step');
  if (!template) return gone('The chat template of this step is no longer there');
  if (!template.approved) return gone(`The chat template ${template.name} is not approved`);
  const { remoteId, content } = template.approved;
  const scope = messageScope(context, now);
  const values = templateValues(content, scope);
  if (!values.ok) {
    const read = readReference(values.empty);
    const name = read ? referenceLabel(read) : values.empty;
    return { does: 'nothing', why: { code: 'empty', text: `Not sent: the template needs ${name}, and it is empty` } };
  }
  const form = content.form ? formToSend(catalogue, content.form) : null;
  if (content.form && !form) return gone(`The chat form of the template ${template.name} is not live`);
  return {
    does: 'send',
    message: {
      ...{ channel: 'chat', audience: 'lead', ...numbers },
      text: templateWords(content, scope),
      template: { id: remoteId, fields: values.fields },
      buttons: content.buttons,
      ...(form ? { form } : {}),
      ...(purpose === 'marketing' ? { purpose } : {}),
    },
  };
}
