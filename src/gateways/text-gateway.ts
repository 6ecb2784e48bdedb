import { z } from 'zod';
import { type Answer, noAnswer, sortHttpAnswer } from '../core/delivery/answer.ts';
import type { TextMessage } from '../core/workflow/plan.ts';
import type { HttpCaller } from './http.ts';

export interface TextAccount {
  /** Base address of the carrier's API. */
  address: string;
  /** Bearer token; null when the carrier wants none. */
  token: string | null;
  /** Where the carrier reports what became of a text. */
  reportTo: string;
}

const Reply = z.object({
  id: z.union([z.string(), z.number()]).optional(),
  code: z.string().optional(),
  title: z.string().optional(),
  detail: z.string().optional(),
});

/** Hands one text to a carrier by the small HTTP API of docs/gateways.md. `key` is the idempotency key. */
export async function sendText(
  http: HttpCaller,
  account: TextAccount,
  message: TextMessage,
  key: string,
  now: () => number,
): Promise<Answer> {
  const headers: Record<string, string> = { 'content-type': 'application/json', 'idempotency-key': key };
  if (account.token) headers.authorization = `Bearer ${account.token}`;
  const outcome = await http.call(
    'POST',
    `${account.address.replace(/\/$/, '')}/texts`,
    headers,
    JSON.stringify({
      to: message.to,
      from: message.from,
      text: message.text,
      reference: key,
      reportTo: account.reportTo,
    }),
  );
  if (!outcome.ok)
    return outcome.code === 'address-refused' || outcome.code === 'bad-address'
      ? { kind: 'refused', ...outcome }
      : noAnswer(outcome.code, outcome.detail);
  const { reply } = outcome;
  const read = Reply.safeParse(parse(reply.body));
  const said = read.success ? (read.data.detail ?? read.data.title ?? '') : '';
  const detail = reply.status < 300 ? 'Accepted by the carrier' : said || `The carrier answered ${reply.status}`;
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
