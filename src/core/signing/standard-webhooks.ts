import { timingSafeEqual } from 'node:crypto';
import { hmacSha256 } from './hmac-sha256.ts';

/**
 * Signatures in the Standard Webhooks way (specification 1.0.0): HMAC-SHA256 (RFC 2104, FIPS 198-1) over
 * `id.timestamp.body`, base64, as `v1,…` in `webhook-signature`; several signatures are parted by spaces and one good one is
 * enough. The secret is base64 behind `whsec_`.
 */

/** Seconds a timestamp may differ from our clock, either way. */
export const TOLERANCE_SECONDS = 300;

export interface SignedHeaders {
  id: string | null;
  timestamp: string | null;
  signature: string | null;
}

export type SignatureProblem = 'missing' | 'timestamp' | 'too-old' | 'too-new' | 'wrong' | 'bad-secret';

export const SIGNATURE_PROBLEMS: Record<SignatureProblem, string> = {
  missing: 'The headers webhook-id, webhook-timestamp and webhook-signature are needed and at least one is missing.',
  timestamp: 'The header webhook-timestamp is not a whole number of seconds.',
  'too-old': 'The signature is more than five minutes old.',
  'too-new': 'The signature is dated more than five minutes ahead.',
  wrong: 'The signature does not fit this body and secret.',
  'bad-secret': 'The secret kept for this source cannot be read; choose a new one.',
};

function keyOf(secret: string): Buffer | null {
  const key = Buffer.from(secret.startsWith('whsec_') ? secret.slice(6) : secret, 'base64');
  return key.length > 0 ? key : null;
}

const mac = (key: Buffer, id: string, timestamp: string, body: Uint8Array): Buffer =>
  hmacSha256(key, `${id}.${timestamp}.`, body);

/** The `webhook-signature` value for a body. `timestamp` in whole seconds since 1970. */
export function signWebhook(secret: string, id: string, timestamp: number, body: Uint8Array | string): string {
  const key = keyOf(secret);
  if (!key) throw new Error('The signing secret is empty.');
  const bytes = typeof body === 'string' ? Buffer.from(body, 'utf8') : body;
  return `v1,${mac(key, id, String(timestamp), bytes).toString('base64')}`;
}

/** Checks the raw body against its headers. `now` in milliseconds since 1970. Null when all is well. */
export function verifyWebhook(
  secret: string,
  headers: SignedHeaders,
  body: Uint8Array,
  now: number,
): SignatureProblem | null {
  const key = keyOf(secret);
  if (!key) return 'bad-secret';
  const { id, timestamp, signature } = headers;
  if (!id || !timestamp || !signature) return 'missing';
  if (!/^\d{1,12}$/.test(timestamp)) return 'timestamp';
  const age = Math.floor(now / 1000) - Number(timestamp);
  if (age > TOLERANCE_SECONDS) return 'too-old';
  if (age < -TOLERANCE_SECONDS) return 'too-new';
  const expected = mac(key, id, timestamp, body);
  for (const candidate of signature.split(' ')) {
    if (!candidate.startsWith('v1,')) continue;
    const given = Buffer.from(candidate.slice(3), 'base64');
    if (given.length === expected.length && timingSafeEqual(given, expected)) return null;
  }
  return 'wrong';
}
