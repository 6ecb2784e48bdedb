/** The thread in which what strangers send is read: whatever it costs, the process that answers people goes on. */
import { type SimpleParserOptions, simpleParser } from 'mailparser';
import { readIcs } from '../core/appointments/read-ics.ts';
import { visibleReply } from '../core/mail/visible-reply.ts';
import { readFeed } from '../sources/content-feed/feed.ts';
import { attachmentOf } from '../sources/mailbox/read-mail.ts';
import { sourceKinds } from '../sources/registry.ts';
import type { ReadingTask, ReadMail } from './task.ts';

const REPORTS = new Set(['message/delivery-status', 'message/feedback-report']);

async function readMail(body: Uint8Array, report: boolean): Promise<ReadMail> {
  const mail = await simpleParser(Buffer.from(body), {
    keepDeliveryStatus: report,
    skipImageLinks: true,
    maxHtmlLengthToParse: 2_000_000,
  } as SimpleParserOptions);
  return {
    headerLines: mail.headerLines.map(({ key, line }) => ({ key, line })),
    from: mail.from?.value[0]?.address ?? '',
    subject: mail.subject ?? '',
    text: mail.text ?? '',
    reply: report ? '' : visibleReply(mail.text ?? ''),
    messageId: mail.messageId ?? null,
    reports: mail.attachments
      .map((part) => ({ type: part.contentType.toLowerCase(), content: part.content }))
      .filter(({ type }) => REPORTS.has(type))
      .map(({ type, content }) => ({ type, text: content.toString('utf8') })),
  };
}

/** Bytes come over as views: libraries want Node's own. */
const own = (bytes: Uint8Array): Buffer => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);

export default async function read(task: ReadingTask): Promise<unknown> {
  switch (task.what) {
    case 'arrival':
      return sourceKinds.get(task.kind)!.read({ ...task.raw, body: own(task.raw.body) }, task.settings, task.hears);
    case 'mail':
      return readMail(task.body, task.report);
    case 'attachment':
      return attachmentOf(own(task.body), task.n);
    case 'calendar':
      return readIcs(task.text, task.zone, task.now);
    case 'feed':
      return readFeed(own(task.bytes), task.address);
  }
}
