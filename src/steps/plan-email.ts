import { EMAIL_PROBLEMS, readEmail } from '../core/message/email-address.ts';
import { emailHtml, headerText } from '../core/template/email-html.ts';
import { renderTemplate } from '../core/template/template.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { templateScope } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { mayNotWrite } from './may-write.ts';

/** An email to the lead, ready to go. `subject` and `message` are templates. */
export function planEmail(
  settings: { subject: string; message: string; needsConsent: boolean },
  { context, desk }: PlanInput,
): Plan {
  const stopped = mayNotWrite(context, 'email', settings.needsConsent);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!desk.email) return { does: 'ask', why: { code: 'no_sender', text: 'No mail server is connected' } };
  const { person } = context;
  if (person.email.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No email address was given', channel: 'email' } };
  const address = readEmail(person.email);
  if (!address.ok)
    return {
      does: 'ask',
      why: { code: 'bad_address', text: `No email: ${EMAIL_PROBLEMS[address.problem]}`, channel: 'email' },
    };
  const scope = templateScope(context);
  const subject = renderTemplate(settings.subject, scope);
  const message = renderTemplate(settings.message, scope);
  if (!subject.ok) return { does: 'ask', why: { code: 'template', text: subject.problem.text } };
  if (!message.ok) return { does: 'ask', why: { code: 'template', text: message.problem.text } };
  if (message.text.trim() === '')
    return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
  return {
    does: 'send',
    message: {
      channel: 'email',
      audience: 'lead',
      to: address.address,
      toName: headerText(`${person.first_name} ${person.last_name}`),
      from: { name: desk.email.fromName, address: desk.email.fromAddress },
      replyTo: null,
      subject: headerText(subject.text),
      text: message.text,
      html: emailHtml(message.text),
    },
  };
}
