import { z } from 'zod';
import { emailHtml, headerText } from '../../core/template/email-html.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { templateScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { colleagueName, colleagueProblem, OWNER, theColleague } from '../the-colleague.ts';

const Settings = z.object({
  colleague: z.string().max(60),
  subject: z.string().max(500),
  message: z.string().max(50_000),
});
export type TellSettings = z.infer<typeof Settings>;

/** An email to a colleague about the lead; a reply goes to the lead. */
export const tell: StepKind<TellSettings> = {
  kind: 'tell',
  label: 'Tell a colleague',
  icon: 'bell-ring',
  places: ['team'],
  settings: Settings,
  blank: () => ({
    colleague: '',
    subject: 'New lead: {{ lead.full_name }}',
    message: '{{ lead.full_name }} came in by {{ source.name }}.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
  }),
  card: (settings, desk) => {
    return {
      title: settings.colleague ? `Tell ${colleagueName(settings.colleague, desk)}` : 'Tell a colleague',
      line: settings.subject,
    };
  },
  aloud: (settings, desk) => `tell ${colleagueName(settings.colleague, desk)}`,
  check: (settings, { desk }) => {
    const found: ReturnType<StepKind['check']> = [];
    const gone = colleagueProblem(settings.colleague, desk);
    if (gone) found.push({ weight: 'must', code: 'colleague', text: `Tell a colleague: ${gone}`, field: 'colleague' });
    if (settings.subject.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Tell a colleague: the subject is empty.', field: 'subject' });
    if (!desk.email)
      found.push({ weight: 'must', code: 'no-sender', text: 'Tell a colleague: no mail server is connected yet.' });
    return found;
  },
  templates: (settings) => [
    { field: 'subject', source: settings.subject },
    { field: 'message', source: settings.message },
  ],
  plan: (settings, { context, desk }) => {
    if (!desk.email) return { does: 'ask', why: { code: 'no_sender', text: 'No mail server is connected' } };
    const who = theColleague(settings.colleague, context, desk);
    if (!who && settings.colleague === OWNER)
      return { does: 'nothing', why: { code: 'no_address', text: 'The lead has no owner' } };
    if (!who) return { does: 'ask', why: { code: 'no_address', text: 'The colleague to be told is no longer here' } };
    const scope = templateScope(context);
    const subject = renderTemplate(settings.subject, scope);
    const message = renderTemplate(settings.message, scope);
    if (!subject.ok) return { does: 'ask', why: { code: 'template', text: subject.problem.text } };
    if (!message.ok) return { does: 'ask', why: { code: 'template', text: message.problem.text } };
    return {
      does: 'send',
      message: {
        channel: 'email',
        audience: 'team',
        to: who.email,
        toName: who.name,
        from: { name: desk.email.fromName, address: desk.email.fromAddress },
        replyTo: null,
        subject: headerText(subject.text),
        text: message.text,
        html: emailHtml(message.text),
      },
    };
  },
};
