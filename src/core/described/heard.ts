import { createHmac, timingSafeEqual } from 'node:crypto';
import {
  SIGNATURE_PROBLEMS,
  type SignatureProblem,
  TOLERANCE_SECONDS,
  verifyWebhook,
} from '../signing/standard-webhooks.ts';
import type { Hears } from './description.ts';
import { eventsIn, type HeardEvent } from './events.ts';
import { fill } from './fill.ts';
import { readReply } from './reply.ts';

/** What a service sends to us. */
export interface Sent {
  method: string;
  /** Names in lower case. */
  headers: Record<string, string>;
  body: Uint8Array;
  /** Of the address it was sent to. */
  query: Record<string, string>;
}

export type Heard =
  | { is: 'handshake'; text: string }
  | { is: 'refused'; status: 400 | 401 | 405; problem: string }
  | { is: 'events'; events: HeardEvent[] };

/** The challenge of a first handshake, to be said again; null where there is none. Plain words and nothing a browser would run: it is told to whoever asks. */
export function echoed({ handshake }: Hears, query: Record<string, string>): string | null {
  const asked = handshake === '' ? undefined : query[handshake];
  return asked !== undefined && /^[\w.~+/=-]{1,500}$/.test(asked) ? asked : null;
}

/** What was sent, once it is known to come from who it should. `now` in milliseconds since 1970. */
export function hear(
  hears: Hears,
  sent: Sent,
  account: { secret: string; values: Record<string, string> },
  now: number,
): Heard {
  const text = echoed(hears, sent.query);
  if (text !== null) return { is: 'handshake', text };
  if (sent.method !== 'POST') return { is: 'refused', status: 405, problem: 'Send events by POST.' };
  const unsigned = signatureTrouble(hears, sent, account, now);
  if (unsigned) return { is: 'refused', status: 401, problem: unsigned.problem };
  const data = readReply({ headers: sent.headers, bytes: sent.body, cut: false });
  if (!data.ok || data.value === null)
    return { is: 'refused', status: 400, problem: 'The body is not understood: JSON, XML or form fields are.' };
  const events = eventsIn(hears, data.value);
  return events.ok ? { is: 'events', events: events.events } : { is: 'refused', status: 400, problem: events.problem };
}

/** What is wrong with how an event proves itself; null when nothing is. */
export function signatureTrouble(
  { signed }: Hears,
  sent: Pick<Sent, 'headers' | 'body'>,
  account: { secret: string; values: Record<string, string> },
  now: number,
): { code: SignatureProblem; problem: string } | null {
  const { headers, body } = sent;
  const no = (code: SignatureProblem, problem: string) => ({ code, problem });
  switch (signed.way) {
    case 'address':
      return null;
    case 'standard-webhooks': {
      const given = {
        id: headers['webhook-id'] ?? null,
        timestamp: headers['webhook-timestamp'] ?? null,
        signature: headers['webhook-signature'] ?? null,
      };
      const problem = verifyWebhook(account.secret, given, body, now);
      return problem && no(problem, SIGNATURE_PROBLEMS[problem]);
    }
    case 'basic': {
      const right = `Basic ${Buffer.from(`${signed.user}:${account.secret}`, 'utf8').toString('base64')}`;
      return same(headers.authorization ?? '', right)
        ? null
        : no('wrong', 'The user name and password are missing or wrong.');
    }
    case 'hmac': {
      const given = headers[signed.header.toLowerCase()] ?? '';
      if (given === '') return no('missing', `The header ${signed.header} with the signature is missing.`);
      const time = signed.timeHeader === '' ? '' : (headers[signed.timeHeader.toLowerCase()] ?? '');
      if (signed.timeHeader !== '') {
        if (!/^\d{1,12}$/.test(time))
          return no('timestamp', `The header ${signed.timeHeader} is not a whole number of seconds.`);
        if (Math.abs(now / 1000 - Number(time)) > TOLERANCE_SECONDS)
          return no('too-old', 'The signature is not of these five minutes.');
      }
      const filling = {
        given: { secret: account.secret, body: Buffer.from(body).toString('latin1'), time },
        account: account.values,
      };
      const key = fill(signed.key, filling);
      const over = fill(signed.over, filling);
      if (!key.ok || key.text === '' || !over.ok)
        return no('bad-secret', 'The secret that signs is not filled in yet.');
      // The body byte for byte: latin1 gives each byte back as it was.
      const right =
        signed.prefix + createHmac(signed.digest, key.text).update(over.text, 'latin1').digest(signed.encoding);
      return same(given.trim(), right) ? null : no('wrong', SIGNATURE_PROBLEMS.wrong);
    }
  }
}

/** Compared in constant time. */
function same(given: string, right: string): boolean {
  const a = Buffer.from(given, 'utf8');
  const b = Buffer.from(right, 'utf8');
  return a.length === b.length && timingSafeEqual(a, b);
}
