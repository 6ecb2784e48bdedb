import { z } from 'zod';
import { EMAIL_PROBLEMS, readEmail } from '../../core/message/email-address.ts';
import { emailHtml, headerText } from '../../core/template/email-html.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { templateScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { mayNotWrite } from '../may-write.ts';

const Settings = z.object({
  subject: z.string().max(500),
  message: z.string().max(50_000),
  needsConsent: z.boolean(),
  ifRefused: z.enum(['carry_on', 'stop_lane']),
});
export type EmailSettings = z.infer<typeof Settings>;

/** An email to the lead. */
export const email: StepKind<EmailSettings> = {
  kind: 'email',
  label: 'Email the lead',
  icon: 'mail',
  places: ['lead'],
  settings: Settings,
  blank: () => ({ subject: '', message: '', needsConsent: true, ifRefused: 'carry_on' }),
  card: (settings) => ({ title: 'Email', line: settings.subject }),
  check: (settings, { desk, consentAsked }) => {
    const found: ReturnType<StepKind['check']> = [];
    if (settings.subject.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Email: the subject is empty.', field: 'subject' });
    if (settings.message.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Email: the message is empty.', field: 'message' });
    if (!desk.email) found.push({ weight: 'must', code: 'no-sender', text: 'Email: no mail server is connected yet.' });
    if (settings.needsConsent && !consentAsked)
      found.push({
        weight: 'look',
        code: 'consent-never-asked',
        text: 'Email: only sent with consent, but no source asks for it, so nobody would get it.',
        field: 'needsConsent',
      });
    return found;
  },
  templates: (settings) => [
    { field: 'subject', source: settings.subject },
    { field: 'message', source: settings.message },
  ],
  plan: (settings, { context, desk }) => {
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
  },
};
