import { createHash } from 'node:crypto';

/** Always the same for the same words: an email handed over twice carries one Message-ID. */
export function uuidOf(words: string): string {
  const hex = createHash('sha256').update(words).digest('hex');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}
