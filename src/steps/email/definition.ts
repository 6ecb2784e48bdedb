import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { planEmail } from '../plan-email.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  subject: z.string().max(500),
  message: z.string().max(50_000),
  needsConsent: z.boolean(),
  fromName: z.string().max(200).default(''),
  replyTo: z.string().max(500).default(''),
  cc: z.string().max(1000).default(''),
  bcc: z.string().max(1000).default(''),
  preheader: z.string().max(300).default(''),
});
export type EmailSettings = z.infer<typeof Settings>;

/** An email to the lead. */
export const email: StepKind<EmailSettings> = {
  kind: 'email',
  label: 'Email the lead',
  icon: 'mail',
  places: ['lead'],
  settings: Settings,
  blank: () => ({
    subject: '',
    message: '',
    needsConsent: true,
    fromName: '',
    replyTo: '',
    cc: '',
    bcc: '',
    preheader: '',
  }),
  card: (settings) => ({ title: 'Email', line: settings.subject }),
  aloud: () => 'email them',
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
    // A fixed address here gets a copy of every lead's message.
    for (const field of ['cc', 'bcc'] as const)
      if (settings[field].includes('@') && !settings[field].includes('{{'))
        found.push({
          weight: 'look',
          code: 'fixed-recipient',
          text: `Email: ${settings[field].trim()} gets a copy of every lead's email.`,
          field,
        });
    return found;
  },
  templates: (settings) => [
    { field: 'subject', source: settings.subject },
    { field: 'message', source: settings.message },
    { field: 'fromName', source: settings.fromName },
    { field: 'replyTo', source: settings.replyTo },
    { field: 'cc', source: settings.cc },
    { field: 'bcc', source: settings.bcc },
    { field: 'preheader', source: settings.preheader },
  ],
  plan: planEmail,
  instead: ({ message, needsConsent }, input) => planText({ message, needsConsent }, input),
};
