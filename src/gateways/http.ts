import { Agent, type Dispatcher } from 'undici';
import { type AddressGuard, AddressRefused } from './address-guard.ts';

export interface HttpReply {
  status: number;
  retryAfter: string | null;
  body: string;
}

export type HttpOutcome = { ok: true; reply: HttpReply } | { ok: false; code: string; detail: string };

/** Longest answer read, in bytes; the rest is cut off. */
const MOST = 64 * 1024;

/** Calls to services over HTTP, with connections kept open, a time limit and no redirects followed. */
export class HttpCaller {
  private readonly agent: Agent;

  constructor(
    private readonly guard: AddressGuard,
    private readonly timeoutMs = 15_000,
  ) {
    this.agent = new Agent({
      connections: 64,
      pipelining: 1,
      keepAliveTimeout: 30_000,
      headersTimeout: timeoutMs,
      bodyTimeout: timeoutMs,
      connect: { timeout: 5_000, ...(guard.lookup ? { lookup: guard.lookup } : {}) },
    });
  }

  async call(
    method: 'GET' | 'POST' | 'DELETE',
    address: string,
    headers: Record<string, string>,
    body?: string,
  ): Promise<HttpOutcome> {
    try {
      const url = new URL(address);
      this.guard.check(url);
      const options: Dispatcher.RequestOptions = {
        origin: url.origin,
        path: url.pathname + url.search,
        method,
        headers,
        ...(body === undefined ? {} : { body }),
      };
      const answer = await this.agent.request(options);
      const retryAfter = answer.headers['retry-after'];
      return {
        ok: true,
        reply: {
          status: answer.statusCode,
          retryAfter: typeof retryAfter === 'string' ? retryAfter : null,
          body: await readSome(answer.body),
        },
      };
    } catch (error) {
      return { ok: false, ...explain(error, this.timeoutMs) };
    }
  }

  close(): Promise<void> {
    return this.agent.close();
  }
}

async function readSome(body: Dispatcher.ResponseData['body']): Promise<string> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of body as AsyncIterable<Buffer>) {
    chunks.push(chunk);
    size += chunk.length;
    if (size > MOST) break;
  }
  return Buffer.concat(chunks).subarray(0, MOST).toString('utf8');
}

function explain(error: unknown, timeoutMs: number): { code: string; detail: string } {
  const { code = '', message = String(error) } = error as { code?: string; message?: string };
  if (error instanceof AddressRefused) return { code: error.code, detail: `Not called: ${error.message}.` };
  if (code === 'ERR_INVALID_URL')
    return { code: 'bad-address', detail: 'The address of this connection is not a web address.' };
  if (/TIMEOUT/i.test(code))
    return { code: 'timeout', detail: `No answer within ${Math.round(timeoutMs / 1000)} seconds.` };
  if (code === 'ECONNREFUSED')
    return { code: 'no-connection', detail: 'The service does not answer: nothing listens at its address.' };
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return { code: 'no-such-host', detail: 'The name of the service cannot be found.' };
  if (['ECONNRESET', 'UND_ERR_SOCKET', 'EPIPE'].includes(code))
    return { code: 'broken-off', detail: 'The connection broke off before an answer came.' };
  return { code: code ? code.toLowerCase() : 'failed', detail: message.slice(0, 300) };
}
