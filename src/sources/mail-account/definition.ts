import { z } from 'zod';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { readMail } from '../mailbox/read-mail.ts';

const only = z.string().trim().max(200).default('');
/** What is done with a mail there once it has come in here. */
export const AFTERWARDS = ['leave', 'read', 'move'] as const;
const Settings = z.object({
  connectionId: z.string(),
  folder: z.string().max(300),
  /** Only mails come in in which the sender, the subject, the text contain this: the server picks them, and no other leaves it. Empty means any. */
  sender: only,
  subject: only,
  text: only,
  afterwards: z.enum(AFTERWARDS).default('leave'),
  moveTo: z.string().max(300).default(''),
});
export type MailAccountSettings = z.infer<typeof Settings>;

/** New mails in a folder of a mailbox somebody has already. */
export const mailAccount: SourceKind<MailAccountSettings> = {
  kind: 'mail-account',
  label: 'Mail account',
  about:
    'New mails in a folder of a mailbox you have already, as they come. Nothing is changed there unless you say so.',
  icon: 'mails',
  settings: Settings,
  brings: 'people',
  comesBy: 'fetched',
  changeable: ['sender', 'subject', 'text'],
  contentType: 'message/rfc822',
  signedBy: () => ({ way: 'nobody' }),
  read: (raw): Promise<SourceReading> => readMail(raw),
};
