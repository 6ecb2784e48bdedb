import type { Answer } from '../core/delivery/answer.ts';
import type { Attachment, OutgoingMessage } from '../core/workflow/plan.ts';
import type { CalendarAccounts } from '../gateways/calendar-account.ts';
import type { DescribedCaller } from '../gateways/described/described-caller.ts';
import type { FilePlaces } from '../gateways/file-place.ts';
import type { HttpCaller } from '../gateways/http.ts';
import type { MailAccounts } from '../gateways/mail-account.ts';
import type { AttachedFile, MailAccount, MailSender } from '../gateways/mail-server.ts';
import type { OutsideDatabases } from '../gateways/outside-database.ts';
import type { SmppAccount, SmppSessions } from '../gateways/smpp/sessions.ts';
import { type MessageAccount, sendDescribed } from './described-message.ts';
import type { CallAnswer } from './step-performer.ts';

export type CompanyAnswer =
  | { kind: 'answered'; company: Record<string, string> | null; detail: string }
  | { kind: 'again'; code: string; detail: string; afterMs: number | null }
  | { kind: 'refused'; code: string; detail: string };

/** Asks who is behind a mail domain; an answer is kept for some days. */
export interface CompanyPort {
  find(businessId: string, domain: string, keepDays: number): Promise<CompanyAnswer>;
}

/** What a service of the business's own is asked. */
export interface LookUpAsk {
  businessId: string;
  connectionId: string;
  lookUp: string;
  given: Record<string, string>;
}
/** What goes on record there. `key` is made from run and step. */
export interface RecordAsk {
  businessId: string;
  leadId: string;
  key: string;
  connectionId: string;
  record: string;
  given: Record<string, string>;
}
export type ElsewhereAnswer =
  | { kind: 'answered'; found: Record<string, string> }
  | { kind: 'again'; code: string; detail: string; afterMs: number | null }
  | { kind: 'refused'; code: string; detail: string };

/** Services that a business has described itself. */
export interface ElsewherePort {
  lookUp(ask: LookUpAsk): Promise<ElsewhereAnswer>;
  putOnRecord(ask: RecordAsk): Promise<CallAnswer>;
}

/** Fetches what is attached to an email, at the time it goes out. */
export interface AttachmentPort {
  /** Files of that business, or fetched from an address. */
  read(
    businessId: string,
    attachments: readonly Attachment[],
  ): Promise<
    { ok: true; files: AttachedFile[] } | { ok: false; answer: Extract<Answer, { kind: 'again' | 'refused' }> }
  >;
}

/** What performing needs of the outside world. */
export interface Outside {
  http: HttpCaller;
  /** Services by their descriptions. */
  services: DescribedCaller;
  /** Databases of a business's own, to be read. */
  databases: OutsideDatabases;
  mailboxes: MailAccounts;
  places: FilePlaces;
  calendars: CalendarAccounts;
  mail: MailSender;
  smpp: SmppSessions;
  companies: CompanyPort;
  elsewhere: ElsewherePort;
  attachments: AttachmentPort;
  now: () => number;
}

/** The account a message goes out by, and whose it is. */
export type SendingAccount = { businessId: string } & (
  | ({ kind: 'text' | 'chat' } & MessageAccount)
  | ({ kind: 'email' } & MailAccount)
  | ({ kind: 'smpp' } & SmppAccount)
);

/** Does what a plan says: hands one message to the outside world under its key. */
export async function performSend(
  outside: Outside,
  account: SendingAccount,
  message: OutgoingMessage,
  key: string,
): Promise<Answer> {
  if (message.channel !== 'email' && account.kind === message.channel)
    return sendDescribed(outside.services, account, message, key);
  if (message.channel === 'text' && account.kind === 'smpp') return outside.smpp.send(account, message);
  if (message.channel === 'email' && account.kind === 'email') {
    const files = await outside.attachments.read(account.businessId, message.attachments ?? []);
    return files.ok ? outside.mail.send(account, message, key, files.files) : files.answer;
  }
  return {
    kind: 'refused',
    code: 'wrong-account',
    detail: 'The connection chosen cannot send this kind of message.',
  };
}
