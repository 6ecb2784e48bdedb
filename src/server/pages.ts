import { request as httpRequest, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { connect } from 'node:net';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { serveFile } from '../static-files.ts';

export type Handler = (request: IncomingMessage, response: ServerResponse) => void;

/** The pages and their files as they were built; beside the bundle, wherever it has been put: build/web.mjs and dist/. */
export async function builtPages(): Promise<Handler> {
  process.env.ASTRO_NODE_AUTOSTART = 'disabled';
  const entry = pathToFileURL(join(import.meta.dirname, '../dist/server/entry.mjs')).href;
  const { handler } = (await import(entry)) as { handler: Handler };
  const files = serveFile(join(import.meta.dirname, '../dist/client'));
  return (request, response) => {
    if (!files(request, response)) handler(request, response);
  };
}

/** The pages as somebody is writing them: handed on to the server that makes them anew with every save, and so is the line it tells of it by. */
export function pagesBeingWritten(url: string, server: Server): Handler {
  const { hostname, port } = new URL(url);
  server.on('upgrade', (request, socket, head) => {
    const there = connect(Number(port), hostname, () => {
      const lines = [`${request.method} ${request.url} HTTP/1.1`];
      for (let i = 0; i < request.rawHeaders.length; i += 2)
        lines.push(`${request.rawHeaders[i]}: ${request.rawHeaders[i + 1]}`);
      there.write(`${lines.join('\r\n')}\r\n\r\n`);
      there.write(head);
      there.pipe(socket).pipe(there);
    });
    for (const end of [there, socket]) end.on('error', () => [there, socket].map((one) => one.destroy()));
  });
  return (request, response) => {
    const asked = httpRequest(
      { hostname, port, path: request.url, method: request.method, headers: request.headers },
      (answer) => {
        response.writeHead(answer.statusCode ?? 502, answer.headers);
        answer.pipe(response);
      },
    );
    asked.on('error', () => {
      if (!response.headersSent) response.writeHead(503, { 'content-type': 'text/plain', 'retry-after': '1' });
      response.end('The pages are being made. Load this one again in a moment.');
    });
    request.pipe(asked);
  };
}
