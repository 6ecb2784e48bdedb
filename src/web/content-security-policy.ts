import { createHash } from 'node:crypto';
import load from 'astro/runtime/client/load.prebuilt.js';
import only from 'astro/runtime/client/only.prebuilt.js';
import island from 'astro/runtime/server/astro-island.prebuilt.js';

/** The only scripts that stand in a page itself: Astro's three for islands. Anything else inline is not run. */
const hashes = [load, only, island]
  .map((script) => `'sha256-${createHash('sha256').update(script).digest('base64')}'`)
  .join(' ');

/** Styles may stand in attributes: drag and drop and the message editor set them. */
const RULES = [
  "default-src 'none'",
  `script-src 'self' ${hashes}`,
  "style-src 'self' 'unsafe-inline'",
  "font-src 'self'",
  "img-src 'self' data:",
  "connect-src 'self'",
  "manifest-src 'self'",
  "worker-src 'self'",
  "form-action 'self'",
  "base-uri 'none'",
];

export const CONTENT_SECURITY_POLICY = [...RULES, "frame-src 'self'", "frame-ancestors 'none'"].join('; ');
/** For form pages, which other sites may show in a frame. */
export const FRAMED_CONTENT_SECURITY_POLICY = [...RULES, 'frame-ancestors *'].join('; ');
