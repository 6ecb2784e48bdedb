import { createHmac, timingSafeEqual } from 'node:crypto';
import { storableText } from '../fields/field.ts';
import { SIGNATURE_PROBLEMS, TOLERANCE_SECONDS, verifyWebhook } from '../signing/standard-webhooks.ts';
import type { HEARD_MEANINGS, Hears } from './description.ts';
import { fill } from './fill.ts';
import { valuesAt } from './paths.ts';
import { type ReadValues, readValues, textAt } from './read.ts';
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

export interface HeardEvent {
  /** Null for a kind that is not named. */
  means: (typeof HEARD_MEANINGS)[number] | null;
  /** By which a repeat is known; empty when it says none. */
  id: string;
  kind: string;
  values: ReadValues;
  /** The event itself. */
  raw: unknown;
}

export type Heard =
  | { is: 'handshake'; text: string }
  | { is: 'refused'; status: 400 | 401 | 405; problem: string }
  | { is: 'events'; events: HeardEvent[] };

/** Most events of one call. */
const MOST = 500;

/** What was sent, once it is known to come from who it should. `now` in milliseconds since 1970. */
export function hear(
  hears: Hears,
  sent: Sent,
  account: { secret: string; values: Record<string, string> },
  now: number,
): Heard {
  const echoed = hears.handshake === '' ? undefined : sent.query[hears.handshake];
  // Plain words and nothing a browser would run: it is told to whoever asks.
  if (echoed !== undefined && /^[\w.~+/=-]{1,500}$/.test(echoed)) return { is: 'handshake', text: echoed };
  if (sent.method !== 'POST') return { is: 'refused', status: 405, problem: 'Send events by POST.' };
  const unsigned = signatureTrouble(hears, sent, account, now);
  if (unsigned) return { is: 'refused', status: 401, problem: unsigned };
  const data = readReply({ headers: sent.headers, bytes: sent.body, cut: false });
  if (!data.ok || data.value === null)
    return { is: 'refused', status: 400, problem: 'The body is not understood: JSON, XML or form fields are.' };
  const all = hears.events === '' ? [data.value] : valuesAt(hears.events, data.value).flat();
  if (all.length > MOST)
    return { is: 'refused', status: 400, problem: `More than ${MOST} events at once are not taken.` };
  const events = all.map((raw) => eventOf(hears, raw));
  const strange = hears.others === 'refuse' ? events.find(({ means }) => means === null) : undefined;
  if (strange)
    return {
      is: 'refused',
      status: 400,
      problem: `Nothing is known of events like “${strange.kind.slice(0, 60)}”; docs/gateways.md says what is expected.`,
    };
  return { is: 'events', events };
}

function eventOf(hears: Hears, raw: unknown): HeardEvent {
  const kind = textAt(hears.kind, raw);
  const found = hears.kinds.find(({ is }) => is.includes(kind)) ?? hears.kinds.find(({ is }) => is.length === 0);
  const id = storableText(textAt(hears.id, raw)).slice(0, 200);
  if (!found) return { means: null, id, kind, values: {}, raw };
  return { means: found.means, id, kind, values: readValues(found.reads, raw), raw };
}

function signatureTrouble(
  { signed }: Hears,
  sent: Sent,
  account: { secret: string; values: Record<string, string> },
  now: number,
): string | null {
  const { headers, body } = sent;
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
      return problem ? SIGNATURE_PROBLEMS[problem] : null;
    }
    case 'basic': {
      const right = `Basic ${Buffer.from(`${signed.user}:${account.secret}`, 'utf8').toString('base64')}`;
      return same(headers.authorization ?? '', right) ? null : 'The user name and password are missing or wrong.';
    }
    case 'hmac': {
      const given = headers[signed.header.toLowerCase()] ?? '';
      if (given === '') return `The header ${signed.header} is missing.`;
      const time = signed.timeHeader === '' ? '' : (headers[signed.timeHeader.toLowerCase()] ?? '');
      if (signed.timeHeader !== '') {
        if (!/^\d{1,12}$/.test(time)) return `The header ${signed.timeHeader} is not a whole number of seconds.`;
        if (Math.abs(now / 1000 - Number(time)) > TOLERANCE_SECONDS)
          return 'The signature is not of these five minutes.';
      }
      const filling = {
        given: { secret: account.secret, body: Buffer.from(body).toString('latin1'), time },
        account: account.values,
      };
      const key = fill(signed.key, filling);
      const over = fill(signed.over, filling);
      if (!key.ok || key.text === '' || !over.ok) return 'The secret that signs is not filled in yet.';
      // The body byte for byte: latin1 gives each byte back as it was.
      const right =
        signed.prefix + createHmac(signed.digest, key.text).update(over.text, 'latin1').digest(signed.encoding);
      return same(given.trim(), right) ? null : 'The signature does not fit this body and secret.';
    }
  }
}

/** Compared in constant time. */
function same(given: string, right: string): boolean {
  const a = Buffer.from(given, 'utf8');
  const b = Buffer.from(right, 'utf8');
  return a.length === b.length && timingSafeEqual(a, b);
}
