import { LRUCache } from 'lru-cache';
import { Agent, type Dispatcher } from 'undici';
import { type AddressGuard, AddressRefused } from './address-guard.ts';

export interface HttpReply {
  status: number;
  retryAfter: string | null;
  /** Names in lower case; of several values the first. */
  headers: Record<string, string>;
  body: string;
  bytes: Buffer;
  /** The answer was longer than `most` and the rest was not read. */
  cut: boolean;
}

export type HttpOutcome = { ok: true; reply: HttpReply } | { ok: false; code: string; detail: string };

/** Longest answer read unless told otherwise, in bytes; the rest is cut off. */
const MOST = 64 * 1024;

/** Calls to services over HTTP, with connections kept open, a time limit and no redirects followed. */
export class HttpCaller {
  private readonly agent: Agent;
  /** By certificate: what comes over such a connection is ours alone. */
  private readonly certified = new LRUCache<string, Agent>({ max: 50, dispose: (agent) => void agent.close() });

  constructor(
    private readonly guard: AddressGuard,
    private readonly timeoutMs = 15_000,
  ) {
    this.agent = this.open();
  }

  private open(certificate?: { cert: string; key: string }): Agent {
    const { guard, timeoutMs } = this;
    return new Agent({
      connections: 64,
      pipelining: 1,
      keepAliveTimeout: 30_000,
      headersTimeout: timeoutMs,
      bodyTimeout: timeoutMs,
      connect: { timeout: 5_000, ...(guard.lookup ? { lookup: guard.lookup } : {}), ...certificate },
    });
  }

  private agentFor(certificate: { cert: string; key: string }): Agent {
    const key = JSON.stringify(certificate);
    const kept = this.certified.get(key);
    if (kept) return kept;
    const made = this.open(certificate);
    this.certified.set(key, made);
    return made;
  }

  async call(
    method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE',
    address: string,
    headers: Record<string, string>,
    body?: string | Buffer,
    most = MOST,
    /** PEM; by which we show who we are (mutual TLS). */
    certificate?: { cert: string; key: string },
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
        // An answer that drips for ever is never quiet: the whole of it has its time too.
        signal: AbortSignal.timeout(this.timeoutMs * 2),
      };
      const answer = await (certificate ? this.agentFor(certificate) : this.agent).request(options);
      return {
        ok: true,
        reply: {
          status: answer.statusCode,
          retryAfter: firstOf(answer.headers['retry-after']) ?? null,
          headers: Object.fromEntries(
            Object.entries(answer.headers).map(([name, value]) => [name, firstOf(value) ?? '']),
          ),
          ...(await readSome(answer.body, most)),
        },
      };
    } catch (error) {
      return { ok: false, ...explain(error, this.timeoutMs) };
    }
  }

  async close(): Promise<void> {
    this.certified.clear();
    await this.agent.close();
  }
}

const firstOf = (value: string | string[] | undefined) => (Array.isArray(value) ? value[0] : value);

async function readSome(
  body: Dispatcher.ResponseData['body'],
  most: number,
): Promise<{ body: string; bytes: Buffer; cut: boolean }> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of body as AsyncIterable<Buffer>) {
    chunks.push(chunk);
    size += chunk.length;
    if (size > most) break;
  }
  const bytes = Buffer.concat(chunks).subarray(0, most);
  return { body: bytes.toString('utf8'), bytes, cut: size > most };
}

function explain(error: unknown, timeoutMs: number): { code: string; detail: string } {
  const { code = '', message = String(error) } = error as { code?: string; message?: string };
  if (error instanceof AddressRefused) return { code: error.code, detail: `Not called: ${error.message}.` };
  if (code === 'ERR_INVALID_URL')
    return { code: 'bad-address', detail: 'The address of this connection is not a web address.' };
  if (code === 'UND_ERR_CONNECT_TIMEOUT')
    return { code: 'connect-timeout', detail: 'The service does not answer: no connection comes about.' };
  if (code === 'UND_ERR_ABORTED' || /TIMEOUT/i.test(String(code)) || (error as Error).name === 'TimeoutError')
    return { code: 'timeout', detail: `No answer within ${Math.round(timeoutMs / 1000)} seconds.` };
  if (code === 'ECONNREFUSED')
    return { code: 'no-connection', detail: 'The service does not answer: nothing listens at its address.' };
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return { code: 'no-such-host', detail: 'The name of the service cannot be found.' };
  if (['ECONNRESET', 'UND_ERR_SOCKET', 'EPIPE'].includes(code))
    return { code: 'broken-off', detail: 'The connection broke off before an answer came.' };
  return { code: code ? code.toLowerCase() : 'failed', detail: message.slice(0, 300) };
}
