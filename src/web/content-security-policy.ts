import { createHash } from 'node:crypto';

const INLINE: string[] = [];
export const contentSecurityPolicy = () => {
  const hashes = INLINE.map((script) => `'sha256-${createHash('sha256').update(script).digest('base64')}'`).join(' ');
  return `default-src 'none'; script-src 'self' ${hashes}; style-src 'self' 'unsafe-inline'; font-src 'self'; img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-src 'self'; frame-ancestors 'none'`;
};
