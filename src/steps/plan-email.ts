import { EMAIL_PROBLEMS, readEmail } from '../core/message/email-address.ts';
import { emailHtml, headerText } from '../core/template/email-html.ts';
import { renderTemplate } from '../core/template/template.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { templateScope } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { mayNotWrite } from './may-write.ts';

/** What an email is made of; all but the consent are templates. Lists of addresses have commas between them. */
export interface EmailParts {
  subject: string;
  message: string;
  needsConsent: boolean;
  fromName?: string;
  replyTo?: string;
  cc?: string;
  bcc?: string;
  preheader?: string;
}

/** An email to the lead, ready to go. */
export function planEmail(settings: EmailParts, { context, desk }: PlanInput): Plan {
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
  let wrong: string | null = null;
  const fill = (source = '') => {
    const rendered = renderTemplate(source, scope);
    if (!rendered.ok) wrong ??= rendered.problem.text;
    return rendered.ok ? rendered.text.trim() : '';
  };
  const addresses = (source = '') =>
    fill(source)
      .split(/[,;]/)
      .map((one) => one.trim())
      .filter(Boolean)
      .flatMap((one) => {
        const read = readEmail(one);
        if (!read.ok) wrong ??= `“${one.slice(0, 80)}” is not an email address`;
        return read.ok ? [read.address] : [];
      });
  const [replyTo] = addresses(settings.replyTo);
  const [cc, bcc] = [addresses(settings.cc), addresses(settings.bcc)];
  const fromName = headerText(fill(settings.fromName)) || desk.email.fromName;
  const preheader = headerText(fill(settings.preheader));
  if (wrong !== null)
    return { does: 'ask', why: { code: 'bad_address', text: `No email: ${wrong}`, channel: 'email' } };
  return {
    does: 'send',
    message: {
      channel: 'email',
      audience: 'lead',
      to: address.address,
      toName: headerText(`${person.first_name} ${person.last_name}`),
      from: { name: fromName, address: desk.email.fromAddress },
      replyTo: replyTo ?? null,
      ...(cc.length > 0 ? { cc } : {}),
      ...(bcc.length > 0 ? { bcc } : {}),
      subject: headerText(subject.text),
      text: message.text,
      html: emailHtml(message.text, preheader),
    },
  };
}
