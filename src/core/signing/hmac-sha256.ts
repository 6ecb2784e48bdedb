import { createHmac } from 'node:crypto';

/** HMAC-SHA256 (RFC 2104, FIPS 198-1) over the parts one after another; 32 bytes. */
export function hmacSha256(key: Uint8Array, ...parts: (Uint8Array | string)[]): Buffer {
  const hmac = createHmac('sha256', key);
  for (const part of parts) hmac.update(part);
  return hmac.digest();
}
