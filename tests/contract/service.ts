import { createServer, type IncomingHttpHeaders } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import type { z } from 'zod';

/** A service of docs/gateways.md as an account sees it: the practice desk's, or any other that says it speaks the same. */
export interface Service {
  address: string;
  key: string;
}

export interface Answered {
  status: number;
  headers: Headers;
  body: unknown;
}

export async function ask(
  { address, key }: Service,
  method: 'GET' | 'POST',
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<Answered> {
  const answer = await fetch(`${address}${path}`, {
    method,
    headers: {
      authorization: `Bearer ${key}`,
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      ...headers,
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await answer.text();
  return { status: answer.status, headers: answer.headers, body: text === '' ? null : JSON.parse(text) };
}

/** What was answered, once it has the shape it is to have. */
export function shaped<T>(shape: z.ZodType<T>, value: unknown): T {
  const read = shape.safeParse(value);
  expect(
    read.success ? [] : read.error.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`),
    JSON.stringify(value),
  ).to.deep.equal([]);
  return read.data as T;
}

/** A refusal as RFC 9457 has it, with the code by which it can be told from others. */
export function refused({ status, headers, body }: Answered, as: { status: number; code?: string }): void {
  expect(status, JSON.stringify(body)).to.equal(as.status);
  expect(headers.get('content-type')).to.match(/^application\/problem\+json/);
  const { code, detail } = body as { code?: string; detail?: string };
  if (as.code) expect(code).to.equal(as.code);
  expect(detail, 'words for a person').to.be.a('string').and.match(/\w/);
}

export interface Pushed {
  headers: IncomingHttpHeaders;
  /** As it came, byte for byte: signatures are over that. */
  raw: string;
  body: Record<string, unknown>;
}

/** Somebody who is told things, as Pine Bell is. */
export class Listener {
  readonly pushed: Pushed[] = [];
  private readonly server = createServer((request, response) => {
    let raw = '';
    request.setEncoding('utf8');
    request.on('data', (chunk: string) => (raw += chunk));
    request.on('end', () => {
      this.pushed.push({ headers: request.headers, raw, body: JSON.parse(raw) });
      response.writeHead(200).end('{}');
    });
  });

  async open(): Promise<this> {
    await new Promise<void>((resolve) => this.server.listen(0, '127.0.0.1', resolve));
    return this;
  }
  get url(): string {
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}/told`;
  }
  async next(what: (pushed: Pushed) => boolean = () => true): Promise<Pushed> {
    const end = Date.now() + 8000;
    for (;;) {
      const found = this.pushed.find(what);
      if (found) return found;
      if (Date.now() > end)
        throw new Error(
          `not told within 8 s; told: ${JSON.stringify(this.pushed.map((pushed) => pushed.body.type ?? pushed.body.event))}`,
        );
      await new Promise((resolve) => setTimeout(resolve, 25));
    }
  }
  close(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}

export const SECRET = `whsec_${Buffer.from('a secret of thirty-two letters..').toString('base64')}`;

/** Signed as the reference library of Standard Webhooks (standardwebhooks 1.1.1) reads it, with our secret and with no other. */
export function signedByUs({ raw, headers }: Pushed): void {
  const told = headers as Record<string, string>;
  expect(() => new Webhook(SECRET).verify(raw, told)).not.to.throw();
  expect(() => new Webhook(`whsec_${Buffer.from('another').toString('base64')}`).verify(raw, told)).to.throw();
}
