import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { planEmail } from '../plan-email.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  subject: z.string().max(500),
  message: z.string().max(50_000),
  needsConsent: z.boolean(),
});
export type EmailSettings = z.infer<typeof Settings>;

/** An email to the lead. */
export const email: StepKind<EmailSettings> = {
  kind: 'email',
  label: 'Email the lead',
  icon: 'mail',
  places: ['lead'],
  settings: Settings,
  blank: () => ({ subject: '', message: '', needsConsent: true }),
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
    return found;
  },
  templates: (settings) => [
    { field: 'subject', source: settings.subject },
    { field: 'message', source: settings.message },
  ],
  plan: planEmail,
  instead: ({ message, needsConsent }, input) => planText({ message, needsConsent }, input),
};
