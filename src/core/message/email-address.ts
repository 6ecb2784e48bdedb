/**
 * Email addresses as people type them into forms.
 *
 * Sources: RFC 5321 §4.1.2 and §4.5.3.1 (local part at most 64 octets, path at most 256), RFC 5322 §3.4.1 (dot-atom),
 * RFC 1035 §2.3.4 (a label at most 63 octets), RFC 6531 (letters beyond ASCII). Narrower than the standards on purpose:
 * no quoted local parts, comments, address literals or one-label domains, which no lead form means.
 */

const LOCAL = /^[\p{L}\p{M}\p{N}!#$%&'*+/=?^_`{|}~-]+(?:\.[\p{L}\p{M}\p{N}!#$%&'*+/=?^_`{|}~-]+)*$/u;
const LABEL = /^[\p{L}\p{M}\p{N}](?:[\p{L}\p{M}\p{N}-]*[\p{L}\p{M}\p{N}])?$/u;
const octets = (text: string) => new TextEncoder().encode(text).length;

export type EmailProblem = 'empty' | 'line-break' | 'no-at' | 'local-part' | 'domain' | 'too-long';

export type EmailReading = { ok: true; address: string } | { ok: false; problem: EmailProblem };

/** Reads one address. Outer white space is dropped, the domain is lower-cased; the local part stays as typed. */
export function readEmail(typed: string): EmailReading {
  // A line break inside is refused before trimming away anything: it is how headers are smuggled into a mail.
  if (/[\r\n\0]/.test(typed.trim())) return { ok: false, problem: 'line-break' };
  const text = typed.normalize('NFC').trim();
  if (text === '') return { ok: false, problem: 'empty' };
  const at = text.lastIndexOf('@');
  if (at < 1) return { ok: false, problem: 'no-at' };
  const local = text.slice(0, at);
  const domain = text.slice(at + 1).toLowerCase();
  if (octets(local) > 64 || octets(text) > 254) return { ok: false, problem: 'too-long' };
  if (!LOCAL.test(local)) return { ok: false, problem: 'local-part' };
  const labels = domain.split('.');
  if (labels.length < 2 || labels.some((label) => octets(label) > 63 || !LABEL.test(label)))
    return { ok: false, problem: 'domain' };
  return { ok: true, address: `${local}@${domain}` };
}

/** What each problem means, in words for the coordinator. */
export const EMAIL_PROBLEMS: Record<EmailProblem, string> = {
  empty: 'there is no email address',
  'line-break': 'the email address has a line break in it',
  'no-at': 'the email address has no @ sign',
  'local-part': 'the part before the @ sign is not allowed',
  domain: 'the part after the @ sign is not a domain name',
  'too-long': 'the email address is longer than mail servers accept',
};

/**
 * The form used to recognise the same person: lower case throughout. RFC 5321 §2.4 lets a mail host tell upper from lower
 * case in the local part; none in use does, so treating them as one person is our choice. Mail still goes to the address
 * as given.
 */
export const matchingEmail = (address: string): string => address.toLowerCase();
