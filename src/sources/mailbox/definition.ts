import { simpleParser } from 'mailparser';
import { z } from 'zod';
import { type Field, storableText } from '../../core/fields/field.ts';
import { automaticMail } from '../../core/mail/automatic-mail.ts';
import { headersByName } from '../../core/mail/header-lines.ts';
import { labelledLines } from '../../core/mail/labelled-lines.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom } from '../../core/source/where-from.ts';

const only = z.string().trim().max(200).default('');
const Settings = z.object({
  /** Mails count only when the sender, the subject, the text contain this; empty means any. Case does not matter. */
  sender: only,
  subject: only,
  text: only,
});
export type MailboxSettings = z.infer<typeof Settings>;

const MOST_TEXT = 20_000;

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
  read: async (raw, settings): Promise<SourceReading> => {
    let mail: Awaited<ReturnType<typeof simpleParser>>;
    try {
      mail = await simpleParser(Buffer.from(raw.body), { skipImageLinks: true, maxHtmlLengthToParse: 2_000_000 });
    } catch (error) {
      return { ok: false, code: 'not-mail', problem: `The mail cannot be read: ${(error as Error).message}` };
    }
    if (mail.headerLines.length === 0)
      return { ok: false, code: 'not-mail', problem: 'There are no headers in it: this is not a mail.' };
    const from = mail.from?.value[0];
    const replyTo = mail.replyTo?.value[0];
    const subject = mail.subject ?? '';
    const text = mail.text ?? '';
    const field = (key: string, label: string, value: string): Field => ({
      key,
      label,
      value: storableText(value).slice(0, MOST_TEXT),
    });
    const fields: Field[] = [
      field('from_name', 'Sender name', from?.name ?? ''),
      field('from_email', 'Sender email', from?.address ?? ''),
      ...(replyTo?.address ? [field('reply_to', 'Reply to', replyTo.address)] : []),
      field('subject', 'Subject', subject),
      ...labelledLines(text).map((field) => ({ ...field, key: `mail.${field.key}` })),
      field('text', 'Text', text),
      ...(typeof mail.html === 'string' ? [field('html', 'HTML', mail.html)] : []),
    ];
    if (mail.attachments.length > 0) {
      const rows = mail.attachments.slice(0, 50).map((attachment) => ({
        name: storableText(attachment.filename ?? 'without a name'),
        type: storableText(attachment.contentType),
        bytes: String(attachment.size),
      }));
      fields.push({
        key: 'attachments',
        label: 'Attachments',
        value: rows.map((row) => `${row.name} (${row.bytes} bytes)`).join(', '),
        rows,
      });
    }
    const automatic = automaticMail({
      headers: headersByName(mail.headerLines),
      envelopeFrom: raw.headers['envelope-from'] ?? null,
      fromAddress: from?.address ?? '',
      subject,
    });
    const aside =
      automatic === 'bounce'
        ? 'A bounce: a mail server says that something could not be delivered.'
        : automatic === 'auto-reply'
          ? 'An automatic reply: nobody wrote it.'
          : notWanted(settings, { sender: mail.from?.text ?? '', subject, text });
    return {
      ok: true,
      entries: [
        {
          externalId: mail.messageId ?? null,
          fields: fields.slice(0, 300),
          whereFrom: findWhereFrom(fields),
          ...(aside === null ? {} : { aside }),
        },
      ],
    };
  },
};

const NAMES = { sender: 'the sender', subject: 'the subject', text: 'the text' } as const;

function notWanted(settings: MailboxSettings, mail: Record<keyof typeof NAMES, string>): string | null {
  for (const part of ['sender', 'subject', 'text'] as const)
    if (settings[part] !== '' && !mail[part].toLowerCase().includes(settings[part].toLowerCase()))
      return `Not listened to: ${NAMES[part]} does not contain "${settings[part]}".`;
  return null;
}

/** The n-th attachment of a raw mail, counting from 0. */
export async function attachmentOf(mail: Buffer, n: number): Promise<{ name: string; bytes: Buffer } | null> {
  const { attachments } = await simpleParser(mail, { skipImageLinks: true });
  const found = attachments[n];
  return found ? { name: found.filename ?? 'attachment', bytes: found.content } : null;
}
