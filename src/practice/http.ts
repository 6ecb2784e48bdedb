import type { IncomingMessage, ServerResponse } from 'node:http';

export async function readJson(request: IncomingMessage): Promise<Record<string, unknown>> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > 1_000_000) throw new Error('too big');
    chunks.push(chunk);
  }
  const value: unknown = JSON.parse(Buffer.concat(chunks).toString('utf8') || '{}');
  return value !== null && typeof value === 'object' ? (value as Record<string, unknown>) : {};
}

export function reply(
  response: ServerResponse,
  status: number,
  body: unknown,
  headers: Record<string, string> = {},
): void {
  const text = JSON.stringify(body);
  response.writeHead(status, {
    'content-type': status >= 400 ? 'application/problem+json' : 'application/json',
    'content-length': Buffer.byteLength(text),
    ...headers,
  });
  response.end(text);
}

/** Whether a request comes with the key of its account; answers it where it does not. */
export function hasKey(request: IncomingMessage, response: ServerResponse, key: string): boolean {
  if (request.headers.authorization === `Bearer ${key}`) return true;
  reply(response, 401, { code: 'key', detail: 'The key of this account is not right.' });
  return false;
}
