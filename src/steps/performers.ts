import type { Answer } from '../core/delivery/answer.ts';
import type { OutgoingMessage } from '../core/workflow/plan.ts';
import type { HttpCaller } from '../gateways/http.ts';
import type { MailAccount, MailSender } from '../gateways/mail-server.ts';
import { sendText, type TextAccount } from '../gateways/text-gateway.ts';

export type CompanyAnswer =
  | { kind: 'answered'; company: Record<string, string> | null; detail: string }
  | { kind: 'again'; code: string; detail: string; afterMs: number | null }
  | { kind: 'refused'; code: string; detail: string };

/** Asks who is behind a mail domain; an answer is kept for some days. */
export interface CompanyPort {
  find(businessId: string, domain: string, keepDays: number): Promise<CompanyAnswer>;
}

/** What performing needs of the outside world. */
export interface Outside {
  http: HttpCaller;
  mail: MailSender;
  companies: CompanyPort;
  now: () => number;
}

/** The account a message goes out by. */
export type SendingAccount = ({ kind: 'text' } & TextAccount) | ({ kind: 'email' } & MailAccount);

/** Does what a plan says: hands one message to the outside world under its key. */
export function performSend(
  outside: Outside,
  account: SendingAccount,
  message: OutgoingMessage,
  key: string,
): Promise<Answer> {
  if (message.channel === 'text' && account.kind === 'text')
    return sendText(outside.http, account, message, key, outside.now);
  if (message.channel === 'email' && account.kind === 'email') return outside.mail.send(account, message, key);
  return Promise.resolve({
    kind: 'refused',
    code: 'wrong-account',
    detail: 'The connection chosen cannot send this kind of message.',
  });
}
