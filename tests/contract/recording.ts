import type { HttpCaller, HttpOutcome } from '../../src/gateways/http.ts';

/** One request with its answer, as a recording keeps it: a line of JSON. Secrets do not stand in it: requests are known by what is left of them. */
export interface Recorded {
  asked: string;
  reply: { status: number; headers: Record<string, string>; body: string } | { failed: string; detail: string };
}
type Calling = Pick<HttpCaller, 'call'>;

/** By which a request is known again: method, address and body, with what changes from one try to the next and what is secret taken out. */
const known = (
  method: string,
  address: string,
  body: string | Buffer | undefined,
  hide: (text: string) => string,
): string => {
  const { pathname, search } = new URL(address);
  return hide(`${method} ${pathname}${search} ${body === undefined ? '' : String(body)}`);
};

/** Passes calls on, and keeps each with its answer. */
export function recording(http: Calling, hide: (text: string) => string): Calling & { kept: Recorded[] } {
  const kept: Recorded[] = [];
  return {
    kept,
    async call(method, address, headers, body, most, certificate): Promise<HttpOutcome> {
      const outcome = await http.call(method, address, headers, body, most, certificate);
      const reply = outcome.ok
        ? { status: outcome.reply.status, headers: typeOnly(outcome.reply.headers), body: hide(outcome.reply.body) }
        : { failed: outcome.code, detail: outcome.detail };
      kept.push({ asked: known(method, address, body, hide), reply });
      return outcome;
    },
  };
}

/** Answers as was recorded: each request in the order in which it was asked. */
export function played(all: readonly Recorded[], hide: (text: string) => string): Calling {
  const left = [...all];
  return {
    async call(method, address, _headers, body): Promise<HttpOutcome> {
      const asked = known(method, address, body, hide);
      const i = left.findIndex((one) => one.asked === asked);
      if (i < 0) return { ok: false, code: 'not-recorded', detail: `Not in the recording: ${asked.slice(0, 200)}` };
      const { reply } = left.splice(i, 1)[0]!;
      if ('failed' in reply) return { ok: false, code: reply.failed, detail: reply.detail };
      const bytes = Buffer.from(reply.body, 'utf8');
      return {
        ok: true,
        reply: {
          status: reply.status,
          headers: reply.headers,
          retryAfter: reply.headers['retry-after'] ?? null,
          body: reply.body,
          bytes,
          cut: false,
        },
      };
    },
  };
}

const typeOnly = (headers: Record<string, string>) =>
  Object.fromEntries(
    ['content-type', 'link', 'retry-after'].flatMap((name) => (headers[name] ? [[name, headers[name]]] : [])),
  );
