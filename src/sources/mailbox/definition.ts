import { z } from 'zod';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { type MailParts, readMail } from './read-mail.ts';

const only = z.string().trim().max(200).default('');
const Settings = z.object({
  /** Mails count only when the sender, the subject, the text contain this; empty means any. Case does not matter. */
  sender: only,
  subject: only,
  text: only,
});
export type MailboxSettings = z.infer<typeof Settings>;

/** Mail that comes to Pine Bell itself: a forwarding rule is enough. */
export const mailbox: SourceKind<MailboxSettings> = {
  kind: 'mailbox',
  label: 'Mailbox',
  about: 'Mails forwarded to an address of its own, like the notifications of a contact form.',
  icon: 'inbox',
  settings: Settings,
  brings: 'people',
  comesBy: 'mail',
  changeable: ['sender', 'subject', 'text'],
  contentType: 'message/rfc822',
  signedBy: () => ({ way: 'nobody' }),
  read: (raw, settings): Promise<SourceReading> => readMail(raw, (mail) => notWanted(settings, mail)),
};

const NAMES = { sender: 'the sender', subject: 'the subject', text: 'the text' } as const;

function notWanted(settings: MailboxSettings, mail: MailParts): string | null {
  for (const part of ['sender', 'subject', 'text'] as const)
    if (settings[part] !== '' && !mail[part].toLowerCase().includes(settings[part].toLowerCase()))
      return `Not listened to: ${NAMES[part]} does not contain "${settings[part]}".`;
  return null;
}
