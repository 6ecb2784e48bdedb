import { timingSafeEqual } from 'node:crypto';
import { hmacSha256 } from './hmac-sha256.ts';

const MAC_BYTES = 16;
const macOf = (key: Uint8Array, body: Buffer) => hmacSha256(key, 'form:', body).subarray(0, MAC_BYTES);

/**
 * What a form in chat carries and brings back: the id of the delivery it was sent with (UUID) and 128 bits of its HMAC-SHA256, as
 * 43 characters of base64url. Nobody without the key can make one, and it says which message asked.
 */
export function makeFormToken(key: Uint8Array, deliveryId: string): string {
  const body = Buffer.from(deliveryId.replaceAll('-', ''), 'hex');
  return Buffer.concat([body, macOf(key, body)]).toString('base64url');
}

/** The delivery a token was sent with; null when it is none of ours, or was changed. */
export function readFormToken(key: Uint8Array, token: string): string | null {
  const bytes = Buffer.from(token, 'base64url');
  if (bytes.length !== 16 + MAC_BYTES || bytes.toString('base64url') !== token) return null;
  const body = bytes.subarray(0, 16);
  if (!timingSafeEqual(bytes.subarray(16), macOf(key, body))) return null;
  return body.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}
