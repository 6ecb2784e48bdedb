import type { Answer } from '../core/delivery/answer.ts';
import type { TextMessage } from '../core/workflow/plan.ts';
import { handOver, type MessageAccount } from './hand-over.ts';
import type { HttpCaller } from './http.ts';

/** Hands one text to a carrier by the small HTTP API of docs/gateways.md. `key` is the idempotency key. */
export const sendText = (
  http: HttpCaller,
  account: MessageAccount,
  { to, from, text }: TextMessage,
  key: string,
  now: () => number,
): Promise<Answer> => handOver(http, account, '/texts', { to, from, text }, key, 'the carrier', now);
