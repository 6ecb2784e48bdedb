import { createHash } from 'node:crypto';
import load from 'astro/runtime/client/load.prebuilt.js';
import island from 'astro/runtime/server/astro-island.prebuilt.js';

/** The only scripts that stand in a page itself: Astro's two for islands. Anything else inline is not run. */
const hashes = [load, island]
  .map((script) => `'sha256-${createHash('sha256').update(script).digest('base64')}'`)
  .join(' ');

/** Styles may stand in attributes: drag and drop and the message editor set them. */
export const CONTENT_SECURITY_POLICY = [
  "default-src 'none'",
  `script-src 'self' ${hashes}`,
  "style-src 'self' 'unsafe-inline'",
  "font-src 'self'",
  "img-src 'self' data:",
  "connect-src 'self'",
  "form-action 'self'",
  "base-uri 'none'",
  "frame-ancestors 'none'",
].join('; ');
