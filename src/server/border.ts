import type { IncomingMessage, ServerResponse } from 'node:http';
import { readRequestBody } from './request-body.ts';

/** Largest form of our own pages, in bytes: 1 MiB. */
const MOST_FORM = 1024 * 1024;
const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'DELETE', 'OPTIONS']);
/** As our pages send theirs. */
const FORM = /^application\/x-www-form-urlencoded\b/i;

export interface AtTheBorder {
  status: 400 | 404 | 405 | 413 | 415;
  code: string;
  detail: string;
}

/** What no page or door of ours ever has to look at: told here, once. Null lets it in. */
export function refusedAtTheBorder(request: IncomingMessage): AtTheBorder | null {
  if (!METHODS.has(request.method ?? ''))
    return { status: 405, code: 'method', detail: `${request.method} is not taken here.` };
  const url = request.url ?? '';
  if (!url.startsWith('/')) return { status: 400, code: 'address', detail: 'The address does not begin with a slash.' };
  try {
    // U+0000 is nothing PostgreSQL can hold or look for (its manual, §8.3).
    if (decodeURIComponent(url.replaceAll('+', ' ')).includes('\0'))
      return {
        status: 400,
        code: 'nul',
        detail: 'The address holds the character U+0000, which nothing here is called.',
      };
  } catch {
    return { status: 400, code: 'address', detail: 'The address is not percent-encoded as UTF-8.' };
  }
  return null;
}

/**
 * The form of a page, read within its limit before the page sees it, and given on as its body. What is sent to the API has its limits there, by what
 * is sent.
 */
export async function takeForm(request: IncomingMessage, response: ServerResponse): Promise<AtTheBorder | null> {
  if (request.method === 'GET' || request.method === 'HEAD' || request.url?.startsWith('/api/')) return null;
  const hasBody =
    Number(request.headers['content-length'] ?? 0) > 0 || request.headers['transfer-encoding'] !== undefined;
  if (hasBody && !FORM.test(request.headers['content-type'] ?? ''))
    return { status: 415, code: 'content-type', detail: 'A form is sent as application/x-www-form-urlencoded.' };
  // Nothing sent is a form with nothing in it, whatever it says it is.
  if (!hasBody) request.headers['content-type'] = 'application/x-www-form-urlencoded';
  const body = await readRequestBody(request, MOST_FORM);
  if (body === 'too-big') {
    response.setHeader('connection', 'close');
    return { status: 413, code: 'too-big', detail: 'The form is larger than 1 MiB. Leave something out.' };
  }
  if (body === 'broken-off') return { status: 400, code: 'broken-off', detail: 'The form broke off. Send it again.' };
  if (body.includes(0) || body.includes('%00'))
    return {
      ...{ status: 400, code: 'nul' },
      detail: 'What was typed holds the character U+0000, which cannot be kept. Take it out and send it again.',
    };
  // Astro's handler takes a body that has been read as an async iterable without properties of its own.
  Object.assign(request, {
    body: Object.create({
      async *[Symbol.asyncIterator]() {
        if (body.length > 0) yield body;
      },
    }),
  });
  return null;
}
