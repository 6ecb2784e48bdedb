import { readIcs } from '../../src/core/appointments/read-ics.ts';
import { keyFromLabel, labelFromKey } from '../../src/core/fields/field.ts';
import { flatten } from '../../src/core/fields/flatten.ts';
import { lookOf } from '../../src/core/fields/number-format.ts';
import { readNumber } from '../../src/core/fields/read-number.ts';
import { readBounceWording } from '../../src/core/mail/bounce-wording.ts';
import { readDeliveryStatus } from '../../src/core/mail/delivery-status.ts';
import { labelledLines } from '../../src/core/mail/labelled-lines.ts';
import { visibleReply } from '../../src/core/mail/visible-reply.ts';
import { commandOf } from '../../src/core/message/command-words.ts';
import { readEmail } from '../../src/core/message/email-address.ts';
import { saysOneOf } from '../../src/core/message/says-one-of.ts';
import { soundsLikeRefusal } from '../../src/core/message/sounds-like-refusal.ts';
import { measureText } from '../../src/core/message/text-segments.ts';
import { properName, splitName } from '../../src/core/people/name.ts';
import { readPhone } from '../../src/core/people/phone.ts';
import { searchWords } from '../../src/core/people/search-words.ts';
import { renderTemplate, templatePieces } from '../../src/core/template/template.ts';
import { cleanAddress } from '../../src/core/tidying/clean-address.ts';
import { readDate } from '../../src/core/time/read-date.ts';
import { readBody } from '../../src/sources/body/read-body.ts';
import { readFeed } from '../../src/sources/content-feed/feed.ts';
import { sourceKinds } from '../../src/sources/registry.ts';
import { readCsv } from '../../src/tables/csv.ts';
import { LIMITS } from '../../src/tables/table.ts';

/** What reads a text that strangers have a hand in. May refuse or throw what is a problem of the text; never fails otherwise, never takes long. */
export type Reader = (text: string) => unknown;

const body = (contentType: string) => async (text: string) => {
  const read = await readBody({ headers: {}, contentType, body: Buffer.from(text) });
  if (read.ok) flatten(read.value);
};
const mailbox = sourceKinds.get('mailbox')!;
const mail = (text: string) =>
  mailbox.read({ headers: {}, contentType: 'message/rfc822', body: Buffer.from(text) }, mailbox.settings.parse({}));
const feed = (inner: string) => readFeed(Buffer.from(`<rss><channel>${inner}</channel></rss>`));
const MULTIPART = 'multipart/form-data; boundary=x';

export const READERS: Record<string, Reader> = {
  JSON: body('application/json'),
  'a string in JSON': (text) => body('application/json')(JSON.stringify({ a: text })),
  'a form': body('application/x-www-form-urlencoded'),
  'a form of one name': (text) => body('application/x-www-form-urlencoded')('a&'.repeat(text.length / 2)),
  'a form of many names': (text) =>
    body('application/x-www-form-urlencoded')(Array.from({ length: text.length / 8 }, (_, n) => `f${n}=x`).join('&')),
  'form data': (text) => body(MULTIPART)(`--x\r\nContent-Disposition: form-data; name="a"\r\n\r\n${text}\r\n--x--`),
  'the head of form data': (text) => body(MULTIPART)(`--x\r\nContent-Disposition: form-data; ${text}`),
  XML: body('application/xml'),
  'an element of XML': (text) => body('application/xml')(`<r>${text}</r>`),
  'a feed': feed,
  'a title in a feed': (text) => feed(`<item><title>${text}</title></item>`),
  'CDATA in a feed': (text) => feed(`<item><title><![CDATA[${text}]]></title></item>`),
  'a date in a feed': (text) => feed(`<item><pubDate>${text}</pubDate></item>`),
  'a mail': mail,
  'the text of a mail': (text) => mail(`From: a@b.example\r\nSubject: x\r\n\r\n${text}`),
  'the author of a mail': (text) => mail(`From: ${text}\r\nSubject: x\r\n\r\nx`),
  'the subject of a mail': (text) => mail(`From: a@b.example\r\nSubject: ${text}\r\n\r\nx`),
  'a mail in HTML': (text) => mail(`From: a@b.example\r\nContent-Type: text/html\r\nSubject: x\r\n\r\n${text}`),
  'a calendar': (text) => readIcs(text, 'UTC', 0),
  'an event': (text) =>
    readIcs(`BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nSUMMARY:${text}\r\nEND:VEVENT\r\nEND:VCALENDAR`, 'UTC', 0),
  CSV: async (text) => {
    for await (const _ of readCsv(Buffer.from(text), LIMITS));
  },
  'the answer in a mail': visibleReply,
  'labels in a mail': labelledLines,
  'the words of a bounce': readBounceWording,
  'a report of a bounce': readDeliveryStatus,
  'a command': commandOf,
  'a refusal': soundsLikeRefusal,
  'an answer': (text) => saysOneOf(text, 'yes, stop'),
  'an email address': readEmail,
  'a name': (text) => properName(text),
  'a whole name': splitName,
  'a phone number': (text) => readPhone(text, 'GB'),
  'what is searched for': (text) => searchWords(text, 'GB'),
  'a web address': cleanAddress,
  'the query of a web address': (text) => cleanAddress(`https://a.example/?${text}`),
  'a date': (text) => readDate(text, 'GB'),
  'a number': readNumber,
  'the format of a cell': (text) => lookOf(200, text),
  'the length of a text': measureText,
  'a message': (text) => renderTemplate(text, {} as never),
  'the fields of a message': templatePieces,
  'a label': labelFromKey,
  'a key': (text) => keyFromLabel(text),
};
