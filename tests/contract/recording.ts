import { askedAs, keptHeaders, type Recorded } from '../../src/core/described/recorded.ts';
import type { HttpCaller, HttpOutcome } from '../../src/gateways/http.ts';

type Calling = Pick<HttpCaller, 'call'>;

/** By which a request is known again: method, address and body, with what changes from one try to the next and what is secret taken out. */
const known = (
  method: string,
  address: string,
  body: string | Buffer | undefined,
  hide: (text: string) => string,
): string => hide(askedAs(method, address, body === undefined ? null : String(body)));

/** Passes calls on, and keeps each with its answer. */
export function recording(http: Calling, hide: (text: string) => string): Calling & { kept: Recorded[] } {
  const kept: Recorded[] = [];
  return {
    kept,
    async call(method, address, headers, body, most, certificate): Promise<HttpOutcome> {
      const outcome = await http.call(method, address, headers, body, most, certificate);
      const reply = outcome.ok
        ? { status: outcome.reply.status, headers: keptHeaders(outcome.reply.headers), body: hide(outcome.reply.body) }
        : { failed: outcome.code, detail: outcome.detail };
      kept.push({ asked: known(method, address, body, hide), reply });
      return outcome;
    },
  };
}

/** Answers as was recorded, here or by tries that were saved: each request in the order in which it was asked. */
export function played(all: readonly Recorded[], hide: (text: string) => string): Calling {
  const left = [...all];
  return {
    async call(method, address, _headers, body): Promise<HttpOutcome> {
      const asked = known(method, address, body, hide);
      const i = left.findIndex((one) => one.asked === asked);
      // Tries that were saved from the screens are without what signed them in (RFC 6749 §4.4.2).
      if (i < 0 && String(body ?? '').includes('grant_type=')) return answered(TOKEN);
      if (i < 0) return { ok: false, code: 'not-recorded', detail: `Not in the recording: ${asked.slice(0, 200)}` };
      const { reply } = left.splice(i, 1)[0]!;
      if ('failed' in reply) return { ok: false, code: reply.failed, detail: reply.detail };
      return answered(reply);
    },
  };
}

const TOKEN = {
  status: 200,
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ access_token: 'recorded', token_type: 'Bearer' }),
};
const answered = (reply: { status: number; headers: Record<string, string>; body: string }): HttpOutcome => ({
  ok: true,
  reply: {
    status: reply.status,
    headers: reply.headers,
    retryAfter: reply.headers['retry-after'] ?? null,
    body: reply.body,
    bytes: Buffer.from(reply.body, 'utf8'),
    cut: false,
  },
});
