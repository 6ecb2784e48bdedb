import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import parsePhone from 'libphonenumber-js/max';
import { signedPost } from './signed-post.ts';
import { type Refused, takeMessage } from './take-message.ts';
import type { World } from './world.ts';

/** How long after they last wrote a business may answer freely. */
export const WINDOW_MS = 24 * 60 * 60_000;
const LONGEST = 4096;
const REPORT_AFTER_MS = 300;
/** A tester looks at the phone about this soon. */
const READ_AFTER_MS = 900;

/** The chat network: the HTTP API of docs/gateways.md, with the chat on the practice phones at its other end. */
export class ChatNetwork {
  constructor(
    private readonly world: World,
    private readonly token: string,
  ) {}

  /** POST /chat/messages */
  take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    return takeMessage(
      this.world,
      {
        token: this.token,
        down: this.world.state.trouble.chatDown,
        busy: false,
        slowMs: 0,
        refuse: (to, text, body) => this.refusal(to, text, body),
        put: ({ id, at, to, text, from }) =>
          this.world.chat(to).messages.push({ id, at, direction: 'to_phone', text, with: from }),
        sent: (_reportTo, key) => {
          this.tell('chat.delivered', key, REPORT_AFTER_MS);
          this.tell('chat.read', key, READ_AFTER_MS);
        },
      },
      request,
      response,
    );
  }

  private refusal(to: string, text: string, body: Record<string, unknown>): Refused | null {
    const refused = (code: string, detail: string, status = 422) => ({ status, code, detail });
    if (!parsePhone(to)?.isPossible()) return refused('not-a-number', 'Not a phone number');
    if (body.kind !== 'free') return refused('unknown-kind', 'This network takes free messages only');
    if (text === '') return refused('empty', 'The message is empty');
    if (text.length > LONGEST) return refused('too-long', `A message may have ${LONGEST} characters`);
    const last = this.world.chat(to).messages.findLast((one) => one.direction === 'from_phone');
    if (!last || Date.now() - Date.parse(last.at) > WINDOW_MS)
      return refused('window-shut', 'They have not written within 24 hours, so a free message is not allowed', 409);
    return null;
  }

  private tell(type: 'chat.delivered' | 'chat.read', key: string, afterMs: number): void {
    const account = this.world.state.chatAccount;
    if (!account) return;
    setTimeout(() => {
      const value = { type, data: { reference: key, at: new Date().toISOString() } };
      void signedPost(
        { url: account.reportTo, secret: account.secret },
        { id: `${type}-${key}`, event: '', value },
        'standard-webhooks',
      );
    }, afterMs);
  }

  /** Somebody writes in chat on a practice phone. */
  async writeFrom(number: string, text: string): Promise<{ reached: boolean }> {
    const id = randomUUID();
    const at = new Date().toISOString();
    this.world.chat(number).messages.push({ id, at, direction: 'from_phone', text, with: '' });
    this.world.changed();
    const account = this.world.state.chatAccount;
    if (!account) return { reached: false };
    const value = { type: 'chat.received', data: { id, from: number, to: account.number, text, at } };
    const result = await signedPost(
      { url: account.reportTo, secret: account.secret },
      { id: `in-${id}`, event: '', value },
      'standard-webhooks',
    );
    return { reached: result.status === 200 };
  }
}
