import { createReadStream, existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { extname, join, relative, sep } from 'node:path';
import { gzipSync } from 'node:zlib';

const TYPES: Record<string, string> = {
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.png': 'image/png',
  '.woff2': 'font/woff2',
  '.woff': 'font/woff',
  '.ico': 'image/x-icon',
  '.json': 'application/json',
  '.txt': 'text/plain; charset=utf-8',
  '.html': 'text/html; charset=utf-8',
};

const ZIPPABLE = new Set(['.js', '.css', '.svg', '.json', '.txt', '.html']);
const zips = new Map<string, Buffer>();

/** The file zipped, kept after the first time; null for what is packed already. */
function gzipped(path: string): Buffer | null {
  if (!ZIPPABLE.has(extname(path))) return null;
  const made = zips.get(path) ?? gzipSync(readFileSync(path), { level: 9 });
  zips.set(path, made);
  return made;
}

/** Serves the files of a folder as it was at start; anything else is somebody else's. Gives whether it answered. */
export function serveFile(folder: string): (request: IncomingMessage, response: ServerResponse) => boolean {
  const known = new Map<string, { path: string; size: number }>();
  if (existsSync(folder))
    for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
      if (!entry.isFile()) continue;
      const path = join(entry.parentPath, entry.name);
      known.set(`/${relative(folder, path).split(sep).join('/')}`, { path, size: statSync(path).size });
    }
  return (request, response) => {
    const file = known.get((request.url ?? '').split('?')[0]!);
    if (!file || (request.method !== 'GET' && request.method !== 'HEAD')) return false;
    const zipped = /\bgzip\b/.test(String(request.headers['accept-encoding'])) ? gzipped(file.path) : null;
    response.writeHead(200, {
      'content-type': TYPES[extname(file.path)] ?? 'application/octet-stream',
      'content-length': zipped?.length ?? file.size,
      'x-content-type-options': 'nosniff',
      vary: 'accept-encoding',
      ...(zipped ? { 'content-encoding': 'gzip' } : {}),
      // Names under _astro carry a hash of their contents.
      'cache-control': file.path.includes(`${sep}_astro${sep}`) ? 'public, max-age=31536000, immutable' : 'no-cache',
    });
    if (request.method === 'HEAD') response.end();
    else if (zipped) response.end(zipped);
    else createReadStream(file.path).pipe(response);
    return true;
  };
}
