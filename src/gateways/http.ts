import { rootCertificates } from 'node:tls';
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

/** What a connection is made with besides, PEM: who we are (mutual TLS), and an authority that is believed besides those everybody believes. */
export interface Trust {
  cert?: string | undefined;
  key?: string | undefined;
  authority?: string | undefined;
}

/** For `tls.connect`: an authority of one's own comes to those Node believes. */
export const believing = (authority: string | undefined): { ca?: string[] } =>
  authority ? { ca: [...rootCertificates, authority] } : {};

/** Longest answer read unless told otherwise, in bytes; the rest is cut off. */
const MOST = 64 * 1024;

/** Calls to services over HTTP, with connections kept open, a time limit and no redirects followed. */
export class HttpCaller {
  private readonly agent: Agent;
  /** By what they are made with: what comes over such a connection is one business's alone. */
  private readonly trusting = new LRUCache<string, Agent>({ max: 50, dispose: (agent) => void agent.close() });

  constructor(
    private readonly guard: AddressGuard,
    private readonly timeoutMs = 15_000,
  ) {
    this.agent = this.open();
  }

  private open({ cert, key, authority }: Trust = {}): Agent {
    const { guard, timeoutMs } = this;
    return new Agent({
      connections: 64,
      pipelining: 1,
      keepAliveTimeout: 30_000,
      headersTimeout: timeoutMs,
      bodyTimeout: timeoutMs,
      connect: {
        timeout: 5_000,
        ...(guard.lookup ? { lookup: guard.lookup } : {}),
        ...(cert ? { cert, key } : {}),
        ...believing(authority),
      },
    });
  }

  private agentFor(trust: Trust): Agent {
    const key = JSON.stringify(trust);
    const kept = this.trusting.get(key);
    if (kept) return kept;
    const made = this.open(trust);
    this.trusting.set(key, made);
    return made;
  }

  async call(
    method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE' | 'PROPFIND' | 'REPORT' | 'LOCK' | 'UNLOCK',
    address: string,
    headers: Record<string, string>,
    body?: string | Buffer,
    most = MOST,
    trust?: Trust,
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
      const answer = await (trust?.cert || trust?.authority ? this.agentFor(trust) : this.agent).request(options);
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
    this.trusting.clear();
    await this.agent.close();
  }
}

/** What is wrong with a certificate, by the code or the message of OpenSSL and Node; null where it is not about one. */
export function certificateWords(code: string): string | null {
  if (/CERT_HAS_EXPIRED|certificate has expired/.test(code)) return 'Its certificate has run out.';
  if (/ERR_TLS_CERT_ALTNAME_INVALID|does not match certificate/.test(code))
    return 'Its certificate is for another name.';
  if (/SELF_SIGNED_CERT|UNABLE_TO_(GET_ISSUER|VERIFY_LEAF)|self.signed certificate|unable to (get|verify)/.test(code))
    return 'Its certificate is signed by an authority nobody here knows. If that is your own, add it on the page of the connection.';
  return /^(CERT_|ERR_TLS_CERT)/.test(code) ? 'Its certificate is not in order.' : null;
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
  const certificate = certificateWords(code);
  if (certificate) return { code: 'certificate', detail: certificate };
  if (['ECONNRESET', 'UND_ERR_SOCKET', 'EPIPE'].includes(code))
    return { code: 'broken-off', detail: 'The connection broke off before an answer came.' };
  return { code: code ? code.toLowerCase() : 'failed', detail: message.slice(0, 300) };
}
