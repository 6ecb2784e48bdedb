import { z } from 'zod';
import { subjectProblems } from '../../core/email/subject-problems.ts';
import { PURPOSES } from '../../core/workflow/purpose.ts';
import type { CheckInput, StepKind } from '../../core/workflow/step-kind.ts';
import { planEmail } from '../plan-email.ts';
import { planText } from '../plan-text.ts';

const Attached = z.discriminatedUnion('from', [
  z.object({ from: z.literal('file'), fileId: z.uuid(), name: z.string().max(200), bytes: z.number().int() }),
  /** The address is a template, fetched when the email goes out. */
  z.object({ from: z.literal('address'), url: z.string().max(2000), name: z.string().max(200) }),
]);

export const EmailSettings = z.object({
  subject: z.string().max(500),
  message: z.string().max(50_000),
  /** An email laid out beforehand, by id; empty for the message as it is written here. */
  template: z.string().max(60).default(''),
  needsConsent: z.boolean(),
  purpose: z.enum(PURPOSES).default('service'),
  fromName: z.string().max(200).default(''),
  replyTo: z.string().max(500).default(''),
  cc: z.string().max(1000).default(''),
  bcc: z.string().max(1000).default(''),
  preheader: z.string().max(300).default(''),
  attachments: z.array(Attached).max(10).default([]),
  countLinks: z.boolean().default(true),
  countOpens: z.boolean().default(true),
  /** Put up for a person to read and send. */
  draft: z.boolean().default(false),
});
export type EmailSettings = z.infer<typeof EmailSettings>;

export const blankEmail = (): EmailSettings => EmailSettings.parse({ subject: '', message: '', needsConsent: true });

/** An email as it may be given away: senders, copies and files are this business's own. */
export const sharedEmail = <S extends EmailSettings>(settings: S): S => ({
  ...settings,
  ...{ fromName: '', replyTo: '', cc: '', bcc: '' },
  attachments: settings.attachments.filter((attachment) => attachment.from === 'address'),
});

/** What would go wrong with any email. `what` begins every sentence. */
export function emailFindings(settings: EmailSettings, { catalogue, consentAsked }: CheckInput, what: string) {
  const found: ReturnType<StepKind['check']> = [];
  const must = (code: string, text: string, field?: string) =>
    found.push({ weight: 'must', code, text: `${what}: ${text}`, ...(field ? { field } : {}) });
  if (settings.subject.trim() === '') must('empty', 'the subject is empty.', 'subject');
  if (settings.template === '' && settings.message.trim() === '') must('empty', 'the message is empty.', 'message');
  if (
    settings.template !== '' &&
    !catalogue.emailTemplates.some((emailTemplate) => emailTemplate.id === settings.template)
  )
    must('gone', 'its template is no longer there.', 'template');
  if (!catalogue.email) must('no-sender', 'no mail server is connected yet.');
  for (const attachment of settings.attachments)
    if (attachment.from === 'address' && !/^https?:\/\//.test(attachment.url.trim()))
      must('bad-address', 'what is attached has no web address.', 'attachments');
  if ((settings.needsConsent || settings.purpose === 'marketing') && !consentAsked)
    found.push({
      weight: 'look',
      code: 'consent-never-asked',
      text: `${what}: only sent with consent, but no source asks for it, so nobody would get it.`,
      field: 'needsConsent',
    });
  for (const text of subjectProblems(settings.subject))
    found.push({ weight: 'look', code: 'junk-subject', text: `${what}: ${text}`, field: 'subject' });
  // A fixed address here gets a copy of every lead's message.
  for (const field of ['cc', 'bcc'] as const)
    if (settings[field].includes('@') && !settings[field].includes('{{'))
      found.push({
        weight: 'look',
        code: 'fixed-recipient',
        text: `${what}: ${settings[field].trim()} gets a copy of every lead's email.`,
        field,
      });
  return found;
}

export const emailTemplates = (settings: EmailSettings) => [
  { field: 'subject', source: settings.subject },
  ...(settings.template === '' ? [{ field: 'message', source: settings.message }] : []),
  { field: 'fromName', source: settings.fromName },
  { field: 'replyTo', source: settings.replyTo },
  { field: 'cc', source: settings.cc },
  { field: 'bcc', source: settings.bcc },
  { field: 'preheader', source: settings.preheader },
  ...settings.attachments.flatMap((attachment) =>
    attachment.from === 'address' ? [{ field: 'attachments', source: attachment.url }] : [],
  ),
];

/** An email to the lead. */
export const email: StepKind<EmailSettings> = {
  kind: 'email',
  label: 'Email the lead',
  icon: 'mail',
  places: ['lead'],
  settings: EmailSettings,
  blank: blankEmail,
  card: ({ subject, draft }) => ({ title: draft ? 'Email, to be read first' : 'Email', line: subject }),
  aloud: ({ draft, template }, catalogue) => {
    if (draft) return 'draft an email for one of us to send';
    const laidOut = catalogue.emailTemplates.find((one) => one.id === template);
    return laidOut ? `email them with the template ${laidOut.name}` : 'email them';
  },
  check: (settings, input) => emailFindings(settings, input, 'Email'),
  shared: sharedEmail,
  templates: emailTemplates,
  plan: planEmail,
  instead: ({ message, needsConsent, purpose }, input) =>
    planText({ message, needsConsent, purpose, countLinks: true }, input),
};
