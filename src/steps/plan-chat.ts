import { PHONE_PROBLEMS, readPhone } from '../core/people/phone.ts';
import { renderTemplate } from '../core/template/template.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { templateScope } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { mayNotWrite } from './may-write.ts';

/** A message in chat to the lead's number, ready to go. `message` is a template. */
export function planChat(settings: { message: string; needsConsent: boolean }, { context, desk }: PlanInput): Plan {
  const stopped = mayNotWrite(context, 'chat', settings.needsConsent);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!desk.chat) return { does: 'ask', why: { code: 'no_sender', text: 'No chat network is connected' } };
  if (context.person.phone.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No phone number was given', channel: 'chat' } };
  const phone = readPhone(context.person.phone, context.business.country);
  if (!phone.ok) {
    const text = `No chat message: ${PHONE_PROBLEMS[phone.problem]} (${context.person.phone})`;
    return { does: 'ask', why: { code: 'bad_address', text, channel: 'chat' } };
  }
  const rendered = renderTemplate(settings.message, templateScope(context));
  if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
  const text = rendered.text.trim();
  if (text === '') return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
  return {
    does: 'send',
    message: { channel: 'chat', audience: 'lead', to: phone.e164, from: desk.chat.from, text, countLinks: true },
  };
}
