import type { RecipientStatus } from './delivery-status.ts';

/**
 * How mail servers say in plain words that a mail could not be delivered, for reports without a part for machines. The wordings are those of common
 * mail servers, from memory: qmail's own format (QSBMF), Postfix, Exim, Sendmail, and the hosted ones. The first that is found counts.
 */
const WORDINGS: readonly { says: RegExp; action: RecipientStatus['action']; status: string }[] = [
  // Not for good: the server goes on trying (Postfix, Exim, Sendmail).
  {
    says: /\b(will be retried|will keep trying|still (being )?(retried|trying)|has been delayed|delivery (is |to .{1,80} )?(has been |is )?(delayed|temporarily suspended)|this is a warning message only|do not need to re-?send|not yet been delivered)\b/i,
    action: 'delayed',
    status: '4.0.0',
  },
  // The mailbox takes nothing more for now.
  {
    says: /\b(mailbox (is )?full|over ?quota|quota (is )?exceeded|exceed(s|ed)? (its |the |their )?(storage|mailbox|quota)|user is overquota|insufficient (system )?storage)\b/i,
    action: 'failed',
    status: '5.2.2',
  },
  // There is no such address.
  {
    says: /\b(user unknown|unknown (user|recipient|address|local[- ]part)|no such (user|recipient|mailbox|address|person)|(address|account|mailbox|recipient|user|e-?mail)( .{1,80})? (does not|doesn['’]t|do not) exist|recipient (address )?(rejected|not found)|(mailbox|user|address|account|recipient) (was )?(not found|unavailable|disabled|inactive|unknown|invalid)|invalid (recipient|mailbox|address)|not (a valid|our customer)|no mailbox here by that name|sorry, no mailbox|this account has been disabled|address( .{1,40})? (couldn['’]t|could not|wasn['’]t|was not) (be )?found|unrouteable address|does not like recipient|isn['’]t (in|on) (my|our) (list|control))\b/i,
    action: 'failed',
    status: '5.1.1',
  },
  // There is no such server.
  {
    says: /\b(host (or domain name )?(unknown|not found)|domain (not found|does not exist|couldn['’]t be found)|no (mx|such) (host|domain|record)|name (service error|or service not known)|all relevant mx records point to non-existent hosts)\b/i,
    action: 'failed',
    status: '5.1.2',
  },
  // Refused for what it is or where it comes from: no word about the address.
  {
    says: /\b(spam|blocked|blacklist(ed)?|block ?list|policy|content rejected|message (was )?rejected|access denied|not authori[sz]ed|relay(ing)? (access )?denied|dmarc|spf)\b/i,
    action: 'failed',
    status: '5.7.1',
  },
];

/** An SMTP reply with an enhanced code (RFC 3463 after RFC 5321 §4.2), and one without. */
const ENHANCED = /\b([45])\d\d[ -]+#?(\1\.\d{1,3}\.\d{1,3})\b/;
const BARE = /\b(5[05]\d)[ -]+(?=[A-Za-z<"'#])/;
const SAYS_BOUNCE =
  /\b(undeliver(ed|able)|could ?n['’o]t be delivered|could not (be )?deliver|(was|were) not delivered|delivery (has )?failed|failed to deliver|permanent(ly)? (error|failure|failed)|returned (mail|to sender)|couldn['’]t be delivered|wasn['’]t delivered|unable to deliver|not able to deliver)\b/i;

/** How much of a report is read; what comes after it is the mail that was sent. */
const MOST = 20_000;

/**
 * What a report says in words about one recipient, by the code it quotes or else by its wording; null when it says nothing that can be told
 * apart from any other mail.
 */
export function readBounceWording(text: string): Omit<RecipientStatus, 'recipient'> | null {
  const said = text.slice(0, MOST);
  const wording = WORDINGS.find(({ says }) => says.test(said));
  const code = ENHANCED.exec(said);
  const line = (at: number) =>
    said
      .slice(at, at + 300)
      .split(/\r?\n/)[0]!
      .trim();
  if (wording?.action === 'delayed' && !(code && code[1] === '5'))
    return { action: 'delayed', status: '4.0.0', diagnostic: line(said.search(wording.says)) };
  if (code) return { action: code[1] === '5' ? 'failed' : 'delayed', status: code[2]!, diagnostic: line(code.index) };
  const bare = BARE.exec(said);
  // A number and a wording, or the plain statement and a wording: either alone is in many an ordinary mail.
  if (wording && (bare || SAYS_BOUNCE.test(said)))
    return {
      action: 'failed',
      status: wording.status,
      diagnostic: line(bare ? bare.index : said.search(wording.says)),
    };
  return bare && SAYS_BOUNCE.test(said) ? { action: 'failed', status: '5.0.0', diagnostic: line(bare.index) } : null;
}
