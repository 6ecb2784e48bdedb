import { measureText } from '../core/message/text-segments.ts';
import { PHONE_PROBLEMS, readPhone } from '../core/people/phone.ts';
import { renderTemplate } from '../core/template/template.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { templateScope } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { mayNotWrite } from './may-write.ts';

/** A text to the lead's phone, ready to go. `message` is a template. */
export function planText(settings: { message: string; needsConsent: boolean }, { context, desk }: PlanInput): Plan {
  const stopped = mayNotWrite(context, 'text', settings.needsConsent);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!desk.text) return { does: 'ask', why: { code: 'no_sender', text: 'No text carrier is connected' } };
  if (context.person.phone.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No phone number was given', channel: 'text' } };
  const phone = readPhone(context.person.phone, context.business.country);
  if (!phone.ok)
    return {
      does: 'ask',
      why: {
        code: 'bad_address',
        text: `No text: ${PHONE_PROBLEMS[phone.problem]} (${context.person.phone})`,
        channel: 'text',
      },
    };
  const rendered = renderTemplate(settings.message, templateScope(context));
  if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
  const message = rendered.text.trim();
  if (message === '') return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
  return {
    does: 'send',
    message: {
      channel: 'text',
      audience: 'lead',
      to: phone.e164,
      from: desk.text.from,
      text: message,
      parts: measureText(message).parts,
    },
  };
}
