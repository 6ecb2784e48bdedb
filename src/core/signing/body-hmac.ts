import { timingSafeEqual } from 'node:crypto';
import { hmacSha256 } from './hmac-sha256.ts';

/** The base64 of the HMAC-SHA256 (RFC 2104) of a raw body; the key is the UTF-8 of the secret. */
export const signBody = (secret: string, body: Uint8Array): string =>
  hmacSha256(Buffer.from(secret, 'utf8'), body).toString('base64');

/** Null when the signature is right. Compared in constant time; base64 spelt otherwise is not taken. */
export function verifyBodyHmac(secret: string, signature: string | null, body: Uint8Array): 'missing' | 'wrong' | null {
  if (signature === null || signature === '') return 'missing';
  const expected = Buffer.from(signBody(secret, body), 'utf8');
  const given = Buffer.from(signature.trim(), 'utf8');
  return expected.length === given.length && timingSafeEqual(expected, given) ? null : 'wrong';
}
