import { z } from 'zod';
import type { Audience } from '../../core/people/audience.ts';
import { headerText } from '../../core/template/email-html.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope, type RunContext } from '../../core/workflow/run-context.ts';
import type { Catalogue, StepKind } from '../../core/workflow/step-kind.ts';
import { blankEmail, EmailSettings, emailFindings, emailTemplates, sharedEmail } from '../email/definition.ts';

const Settings = EmailSettings.extend({
  /** "list:ID", "tag:ID" or "segment:ID". */
  to: z.string().max(80),
});
export type MailingSettings = z.infer<typeof Settings>;

/** Everything about this run that the emails may use; what is about the person is each reader's own. */
export type MailingShared = Pick<RunContext, 'answers' | 'where' | 'source' | 'found' | 'happened' | 'business'>;
export interface MailingDone {
  audience: Audience;
  email: { settings: EmailSettings; shared: MailingShared };
}

/** Whom "list:ID", "tag:ID" or "segment:ID" names; null when it is gone. */
export function audienceOf(
  to: string,
  catalogue: Pick<Catalogue, 'lists' | 'tags' | 'segments'>,
): { words: string; audience: Audience } | null {
  const [kind = '', id = ''] = to.split(':');
  const named = (all: { id: string; name: string }[]) => all.find((one) => one.id === id)?.name;
  const list = kind === 'list' && named(catalogue.lists);
  if (list) return { words: `the list ${list}`, audience: { list: id } };
  const tag = kind === 'tag' && named(catalogue.tags);
  if (tag) return { words: `everybody tagged ${tag}`, audience: { tag: id } };
  const segment = kind === 'segment' && named(catalogue.segments);
  return segment ? { words: `the segment ${segment}`, audience: { segment: id } } : null;
}

/** Everybody an email to many can be for, as choices. */
export const audienceChoices = (catalogue: Pick<Catalogue, 'lists' | 'tags' | 'segments'>): [string, string][] => [
  ['', 'Choose a list, a segment or a tag'],
  ...catalogue.lists.map((list): [string, string] => [`list:${list.id}`, `The list ${list.name}`]),
  ...catalogue.segments.map((segment): [string, string] => [`segment:${segment.id}`, `The segment ${segment.name}`]),
  ...catalogue.tags.map((tag): [string, string] => [`tag:${tag.id}`, `Everybody tagged ${tag.name}`]),
];

/** One email to everybody on a list or with a tag. */
export const mailing: StepKind<MailingSettings> = {
  kind: 'mailing',
  label: 'Email a list or a tag',
  icon: 'mails',
  places: ['lead'],
  settings: Settings,
  shared: sharedEmail,
  blank: () => ({ ...blankEmail(), to: '' }),
  card: ({ to, subject }, catalogue) => {
    const whom = audienceOf(to, catalogue);
    return { title: whom ? `Email ${whom.words}` : 'Email a list or a tag', line: subject };
  },
  aloud: ({ to }, catalogue) => `email ${audienceOf(to, catalogue)?.words ?? 'a list'}`,
  check: (settings, input) => {
    const found = emailFindings(settings, { ...input, consentAsked: true }, 'One-off email');
    if (settings.to === '')
      found.push({ weight: 'must', code: 'empty', text: 'One-off email: choose who gets it.', field: 'to' });
    else if (!audienceOf(settings.to, input.catalogue))
      found.push({ weight: 'must', code: 'gone', text: 'One-off email: who was to get it is gone.', field: 'to' });
    return found;
  },
  templates: emailTemplates,
  plan: ({ to, ...settings }, { context, catalogue, now }) => {
    const whom = audienceOf(to, catalogue);
    if (to === '') return { does: 'ask', why: { code: 'empty', text: 'Choose who gets this email' } };
    if (!whom) return { does: 'ask', why: { code: 'gone', text: 'The list or tag of this step is no longer there' } };
    if (!catalogue.email) return { does: 'ask', why: { code: 'no_sender', text: 'No mail server is connected' } };
    if (
      settings.template !== '' &&
      !catalogue.emailTemplates.some((emailTemplate) => emailTemplate.id === settings.template)
    )
      return { does: 'ask', why: { code: 'gone', text: 'The template of this email is no longer there' } };
    const subject = renderTemplate(settings.subject, machineScope(context, now));
    if (!subject.ok) return { does: 'ask', why: { code: 'template', text: subject.problem.text } };
    const { answers, where, source, found, happened, business } = context;
    return {
      does: 'record',
      words: `“${headerText(subject.text)}” to ${whom.words}`,
      what: {
        audience: whom.audience,
        email: { settings, shared: { answers, where, source, found, happened, business } },
      } as MailingDone,
    };
  },
};
