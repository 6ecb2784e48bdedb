import { TOKEN_LENGTH } from '../message/counted-links.ts';
import { hmacSha256 } from './hmac-sha256.ts';

const DIGITS = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz';

/**
 * A short token that nobody without the key can make: the same for the same words, so that a message made twice after a crash
 * is the same message. `TOKEN_LENGTH` digits of base 62 of the HMAC-SHA256.
 */
export function shortToken(key: Uint8Array, words: string): string {
  let rest = hmacSha256(key, words).readBigUInt64BE();
  let token = '';
  for (let i = 0; i < TOKEN_LENGTH; i++) {
    token += DIGITS[Number(rest % 62n)];
    rest /= 62n;
  }
  return token;
}
