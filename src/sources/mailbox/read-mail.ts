import { simpleParser } from 'mailparser';
import { type Field, storableText } from '../../core/fields/field.ts';
import { automaticMail } from '../../core/mail/automatic-mail.ts';
import { headersByName } from '../../core/mail/header-lines.ts';
import { labelledLines } from '../../core/mail/labelled-lines.ts';
import { OURS } from '../../core/mail/ours.ts';
import type { RawArrival, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom } from '../../core/source/where-from.ts';

const MOST_TEXT = 20_000;
/** Where a mail stands in its folder, for one that has no Message-ID. */
export const MAIL_PLACE = 'mail-place';

/** What a mail is counted by, or not. */
export interface MailParts {
  sender: string;
  subject: string;
  text: string;
}

/**
 * A mail (RFC 5322) as fields: who wrote, what about, the text, and its labelled lines one by one.
 *
 * @param notCounted why a mail is not listened to; null where it is
 */
export async function readMail(
  raw: RawArrival,
  notCounted?: (mail: MailParts) => string | null,
): Promise<SourceReading> {
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
  const headers = headersByName(mail.headerLines);
  const automatic = automaticMail({
    headers,
    envelopeFrom: raw.headers['envelope-from'] ?? null,
    fromAddress: from?.address ?? '',
    subject,
  });
  const aside =
    headers[OURS.toLowerCase()] !== undefined
      ? 'Pine Bell sent this itself.'
      : automatic === 'bounce'
        ? 'A bounce: a mail server says that something could not be delivered.'
        : automatic === 'auto-reply'
          ? 'An automatic reply: nobody wrote it.'
          : (notCounted?.({ sender: mail.from?.text ?? '', subject, text }) ?? null);
  return {
    ok: true,
    entries: [
      {
        externalId: mail.messageId ?? raw.headers[MAIL_PLACE] ?? null,
        fields: fields.slice(0, 300),
        whereFrom: findWhereFrom(fields),
        ...(aside === null ? {} : { aside }),
      },
    ],
  };
}

/** The n-th attachment of a raw mail, counting from 0. */
export async function attachmentOf(mail: Buffer, n: number): Promise<{ name: string; bytes: Buffer } | null> {
  const { attachments } = await simpleParser(mail, { skipImageLinks: true });
  const found = attachments[n];
  return found ? { name: found.filename ?? 'attachment', bytes: found.content } : null;
}
