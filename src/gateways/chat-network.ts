import type { Answer } from '../core/delivery/answer.ts';
import type { ChatMessage } from '../core/workflow/plan.ts';
import { handOver, type MessageAccount } from './hand-over.ts';
import type { HttpCaller } from './http.ts';

/** Hands one free message to a chat network by the HTTP API of docs/gateways.md. `key` is the idempotency key. */
export const sendChat = (
  http: HttpCaller,
  account: MessageAccount,
  { to, from, text }: ChatMessage,
  key: string,
  now: () => number,
): Promise<Answer> =>
  handOver(http, account, '/messages', { to, from, kind: 'free', text }, key, 'the chat network', now);
