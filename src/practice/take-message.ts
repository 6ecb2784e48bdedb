import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { hasKey, readJson, reply } from './http.ts';
import type { World } from './world.ts';

export interface Refused {
  status: number;
  code: string;
  detail: string;
}

export interface MessageRules {
  token: string;
  /** The connection breaks off without an answer. */
  down: boolean;
  busy: boolean;
  /** Slow to answer, not slow to send: the hard case for whoever waits, since the message is out already. */
  slowMs: number;
  /** The words of a message, where they are not simply its text. */
  words?(body: Record<string, unknown>): string;
  refuse(to: string, text: string, body: Record<string, unknown>): Refused | null;
  /** Puts it on the phone. */
  put(message: { id: string; at: string; to: string; text: string; from: string }, body: Record<string, unknown>): void;
  /** It went out: `reportTo` is where the sender wants to hear of it. */
  sent(reportTo: string, key: string): void;
}

/** Takes one message to a phone by the HTTP API of docs/gateways.md: once per idempotency key, with the same answer every time. */
export async function takeMessage(
  world: World,
  rules: MessageRules,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  if (rules.down) {
    request.socket.destroy();
    return;
  }
  if (!hasKey(request, response, rules.token)) return;
  if (rules.busy) return reply(response, 429, { code: 'busy', detail: 'Too many at once.' }, { 'retry-after': '3' });
  const key = String(request.headers['idempotency-key'] ?? '');
  if (key === '') return reply(response, 400, { code: 'no-key', detail: 'An Idempotency-Key is needed.' });
  const body = await readJson(request);
  const to = String(body.to ?? '');
  const text = rules.words ? rules.words(body) : String(body.text ?? '');
  const known = world.recordByKey(key);
  if (known) {
    if (known.to !== to || known.text !== text)
      return reply(response, 422, { code: 'key-used', detail: 'This key was used for another message.' });
    known.repeats += 1;
    world.changed();
    return reply(response, known.status, known.reply);
  }
  const refusal = rules.refuse(to, text, body);
  const id = randomUUID();
  const at = new Date().toISOString();
  const record = {
    key,
    id,
    at,
    to,
    text,
    repeats: 0,
    status: refusal?.status ?? 202,
    reply: refusal ? { code: refusal.code, detail: refusal.detail } : { id, parts: 1 },
  };
  world.addRecord(record);
  if (!refusal) {
    rules.put({ id, at, to, text, from: String(body.from ?? '') }, body);
    world.changed();
    if (typeof body.reportTo === 'string') rules.sent(body.reportTo, key);
  }
  if (rules.slowMs > 0) await new Promise((resolve) => setTimeout(resolve, rules.slowMs));
  reply(response, record.status, record.reply);
}
