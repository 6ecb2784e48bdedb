import { z } from 'zod';
import { measureText } from '../../core/message/text-segments.ts';
import { readPhone } from '../../core/people/phone.ts';
import { worksAgain } from '../../core/people/working-time.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { readingScope } from '../../core/workflow/run-context.ts';
import type { Catalogue, StepKind } from '../../core/workflow/step-kind.ts';
import { emailToColleague } from '../email-to-colleague.ts';
import { colleagueName, colleagueProblem, OWNER, ROTA, theColleague } from '../the-colleague.ts';

const Settings = z.object({
  /** A colleague's id, "owner" or "rota". */
  colleague: z.string().max(60),
  /** For a rota: colleagues in the order they take turns. */
  among: z.array(z.string().max(60)).max(50).default([]),
  by: z.enum(['email', 'text']).default('email'),
  subject: z.string().max(500),
  message: z.string().max(50_000),
});
export type TellSettings = z.infer<typeof Settings>;

const toldName = ({ colleague, among }: TellSettings, catalogue: Catalogue): string =>
  colleague === ROTA
    ? `the next of ${among.map((id) => colleagueName(id, catalogue)).join(', ') || 'a rota'}`
    : colleagueName(colleague, catalogue);

/** An email or a text to a colleague, or to whose turn it is, about the lead. */
export const tell: StepKind<TellSettings> = {
  kind: 'tell',
  label: 'Tell a colleague',
  icon: 'bell-ring',
  places: ['team'],
  settings: Settings,
  blank: () => ({
    colleague: '',
    among: [],
    by: 'email',
    subject: 'New lead: {{ lead.full_name }}',
    message: '{{ lead.full_name }} came in by {{ source.name }}.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
  }),
  card: (settings, catalogue) => {
    return {
      title: settings.colleague ? `Tell ${toldName(settings, catalogue)}` : 'Tell a colleague',
      line: settings.by === 'text' ? settings.message : settings.subject,
    };
  },
  aloud: (settings, catalogue) => `tell ${toldName(settings, catalogue)}${settings.by === 'text' ? ' by text' : ''}`,
  check: (settings, { catalogue }) => {
    const found: ReturnType<StepKind['check']> = [];
    const gone =
      settings.colleague === ROTA
        ? settings.among.some((id) => catalogue.colleagues.some((colleague) => colleague.id === id))
          ? null
          : 'choose who takes turns.'
        : colleagueProblem(settings.colleague, catalogue);
    if (gone) found.push({ weight: 'must', code: 'colleague', text: `Tell a colleague: ${gone}`, field: 'colleague' });
    if (settings.by === 'email' && settings.subject.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Tell a colleague: the subject is empty.', field: 'subject' });
    if (settings.by === 'text' && !catalogue.text)
      found.push({ weight: 'must', code: 'no-sender', text: 'Tell a colleague: no text carrier is connected yet.' });
    const told = settings.colleague === ROTA ? settings.among : [settings.colleague];
    const known = catalogue.colleagues.find((colleague) => told.includes(colleague.id) && !colleague.phone);
    if (settings.by === 'text' && known)
      found.push({
        weight: 'must',
        code: 'no-phone',
        text: `Tell a colleague: ${known.name} has said no phone number under Settings.`,
        field: 'colleague',
      });
    if (settings.by === 'email' && !catalogue.email)
      found.push({ weight: 'must', code: 'no-sender', text: 'Tell a colleague: no mail server is connected yet.' });
    return found;
  },
  templates: (settings) => [
    { field: 'subject', source: settings.subject },
    { field: 'message', source: settings.message },
  ],
  turn: ({ colleague, among }) => (colleague === ROTA && among.length > 0 ? among : null),
  plan: (settings, { context, catalogue, turn, now }) => {
    const chosen = settings.colleague === ROTA ? (turn ?? settings.among[0] ?? '') : settings.colleague;
    const who = theColleague(chosen, context, catalogue);
    if (!who && settings.colleague === OWNER)
      return { does: 'nothing', why: { code: 'no_address', text: 'The lead has no owner' } };
    if (!who) return { does: 'ask', why: { code: 'no_address', text: 'The colleague to be told is no longer here' } };
    // Nobody is told on their day off, nor outside their hours: it waits until they are there.
    const at = worksAgain(who.working, now, context.business.timeZone);
    const wait = at === null ? {} : { notBefore: at };
    const scope = readingScope(context, now);
    if (settings.by === 'text') {
      if (!catalogue.text) return { does: 'ask', why: { code: 'no_sender', text: 'No text carrier is connected' } };
      const phone = readPhone(who.phone, context.business.country);
      if (!phone.ok)
        return { does: 'ask', why: { code: 'bad_address', text: `${who.name} has no phone number under Settings` } };
      const words = renderTemplate(settings.message, scope);
      if (!words.ok) return { does: 'ask', why: { code: 'template', text: words.problem.text } };
      const text = words.text.trim();
      if (text === '') return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
      return {
        ...{ does: 'send', ...wait },
        message: {
          channel: 'text',
          audience: 'team',
          to: phone.e164,
          from: catalogue.text.from,
          text,
          parts: measureText(text).parts,
        },
      };
    }
    if (!catalogue.email) return { does: 'ask', why: { code: 'no_sender', text: 'No mail server is connected' } };
    const subject = renderTemplate(settings.subject, scope);
    const message = renderTemplate(settings.message, scope);
    if (!subject.ok) return { does: 'ask', why: { code: 'template', text: subject.problem.text } };
    if (!message.ok) return { does: 'ask', why: { code: 'template', text: message.problem.text } };
    return { does: 'send', ...wait, message: emailToColleague(catalogue.email, who, subject.text, message.text) };
  },
};
