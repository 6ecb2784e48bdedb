import { existsSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import sirv from 'sirv';

/** Names under _astro carry a hash of their contents. */
const HASHED = /^\/_astro\//;

/**
 * Serves the files of a folder as it was at start, packed where the build has packed them (`scripts/build.mjs`); anything else is somebody else's. Gives
 * whether it answered.
 */
export function serveFile(folder: string): (request: IncomingMessage, response: ServerResponse) => boolean {
  if (!existsSync(folder)) return () => false;
  const serve = sirv(folder, {
    etag: true,
    gzip: true,
    extensions: [],
    setHeaders: (response, path) => {
      response.setHeader('x-content-type-options', 'nosniff');
      response.setHeader('cache-control', HASHED.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache');
    },
  });
  return (request, response) => {
    if (request.method !== 'GET' && request.method !== 'HEAD') return false;
    // A part of a file is asked for by nobody here, and sirv cannot take every way of asking ("bytes=5-2" throws): RFC 9110 §14.2 lets it be left out.
    delete request.headers.range;
    let answered = true;
    serve(request, response, () => {
      answered = false;
    });
    return answered;
  };
}
