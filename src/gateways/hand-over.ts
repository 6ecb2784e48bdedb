import { z } from 'zod';
import { type Answer, noAnswer, sortHttpAnswer } from '../core/delivery/answer.ts';
import type { HttpCaller } from './http.ts';

/** An account of a service that takes messages over HTTP. */
export interface MessageAccount {
  /** Base address of its API. */
  address: string;
  /** Bearer token; null when it wants none. */
  token: string | null;
  /** Where it reports what became of a message. */
  reportTo: string;
}

const Reply = z.object({
  id: z.union([z.string(), z.number()]).optional(),
  code: z.string().optional(),
  title: z.string().optional(),
  detail: z.string().optional(),
});

/** Hands one message over as docs/gateways.md has it. `key` is the idempotency key, `who` takes it: "the carrier". */
export async function handOver(
  http: HttpCaller,
  account: MessageAccount,
  path: string,
  body: Record<string, unknown>,
  key: string,
  who: string,
  now: () => number,
): Promise<Answer> {
  const headers: Record<string, string> = { 'content-type': 'application/json', 'idempotency-key': key };
  if (account.token) headers.authorization = `Bearer ${account.token}`;
  const outcome = await http.call(
    'POST',
    account.address.replace(/\/$/, '') + path,
    headers,
    JSON.stringify({ ...body, reference: key, reportTo: account.reportTo }),
  );
  if (!outcome.ok)
    return outcome.code === 'address-refused' || outcome.code === 'bad-address'
      ? { kind: 'refused', ...outcome }
      : noAnswer(outcome.code, outcome.detail);
  const { reply } = outcome;
  const read = Reply.safeParse(parse(reply.body));
  const said = read.success ? (read.data.detail ?? read.data.title ?? '') : '';
  const capital = who.charAt(0).toUpperCase() + who.slice(1);
  const detail = reply.status < 300 ? `Accepted by ${who}` : said || `${capital} answered ${reply.status}`;
  const remoteId = read.success && read.data.id !== undefined ? String(read.data.id) : null;
  return sortHttpAnswer(reply.status, { detail, remoteId, retryAfter: reply.retryAfter }, now());
}

function parse(body: string): unknown {
  try {
    return JSON.parse(body);
  } catch {
    return null;
  }
}
