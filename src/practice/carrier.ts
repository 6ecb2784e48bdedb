import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import parsePhone from 'libphonenumber-js/max';
import { readJson, reply } from './http.ts';
import { signedPost } from './signed-post.ts';
import type { World } from './world.ts';

const SLOW_MS = 4000;
const REPORT_AFTER_MS = 400;

/** The text carrier: the HTTP API of docs/gateways.md, with phones at its other end. */
export class Carrier {
  constructor(
    private readonly world: World,
    private readonly token: string,
  ) {}

  /** POST /carrier/texts */
  async take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { trouble } = this.world.state;
    if (trouble.carrierDown) {
      request.socket.destroy();
      return;
    }
    if (request.headers.authorization !== `Bearer ${this.token}`)
      return reply(response, 401, { code: 'key', detail: 'The key of this account is not right.' });
    if (trouble.carrierBusy)
      return reply(response, 429, { code: 'busy', detail: 'Too many texts at once.' }, { 'retry-after': '3' });
    const key = String(request.headers['idempotency-key'] ?? '');
    if (key === '') return reply(response, 400, { code: 'no-key', detail: 'An Idempotency-Key is needed.' });
    const body = await readJson(request);
    const to = String(body.to ?? '');
    const text = String(body.text ?? '');
    const known = this.world.recordByKey(key);
    if (known) {
      if (known.to !== to || known.text !== text)
        return reply(response, 422, { code: 'key-used', detail: 'This key was used for another text.' });
      known.repeats += 1;
      this.world.changed();
      return reply(response, known.status, known.reply);
    }
    const refusal = this.refusal(to, text);
    const id = randomUUID();
    const record = {
      key,
      id,
      at: new Date().toISOString(),
      to,
      text,
      repeats: 0,
      status: refusal ? 422 : 202,
      reply: refusal ?? { id, parts: 1 },
    };
    this.world.addRecord(record);
    if (!refusal) {
      this.world
        .phone(to)
        .messages.push({ id, at: record.at, direction: 'to_phone', text, with: String(body.from ?? '') });
      this.world.changed();
      if (typeof body.reportTo === 'string')
        this.report(body.reportTo, key, {
          type: 'text.delivered',
          data: { reference: key, at: new Date().toISOString() },
        });
    }
    // Slow to answer, not slow to send: the hard case for whoever waits, since the text is out already.
    if (trouble.carrierSlow) await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
    reply(response, record.status, record.reply);
  }

  private refusal(to: string, text: string): { code: string; detail: string } | null {
    const number = parsePhone(to);
    if (!number?.isPossible()) return { code: 'not-a-number', detail: 'Not a phone number' };
    if (text === '') return { code: 'empty', detail: 'The text is empty' };
    if (this.world.state.trouble.refusedNumbers.includes(to))
      return { code: 'blocked', detail: "The number can't receive texts" };
    if (number.getType() === 'FIXED_LINE') return { code: 'not-mobile', detail: 'Not a mobile number' };
    return null;
  }

  private report(url: string, key: string, value: unknown): void {
    const { reportSecret, trouble } = this.world.state;
    if (!reportSecret || trouble.carrierLosesReports) return;
    setTimeout(() => void this.post(url, reportSecret, `report-${key}`, value), REPORT_AFTER_MS);
    this.lastReportTo = url;
  }

  private post(url: string, secret: string, id: string, value: unknown) {
    return signedPost({ url, secret }, { id, event: '', value }, 'standard-webhooks');
  }

  private lastReportTo: string | null = null;

  /** Somebody writes on a practice phone. */
  async writeFrom(number: string, text: string): Promise<{ reached: boolean }> {
    const phone = this.world.phone(number);
    const to = phone.messages.findLast((message) => message.direction === 'to_phone')?.with ?? '';
    const id = randomUUID();
    const at = new Date().toISOString();
    phone.messages.push({ id, at, direction: 'from_phone', text, with: to });
    this.world.changed();
    const { reportSecret } = this.world.state;
    if (!reportSecret || !this.lastReportTo) return { reached: false };
    const result = await this.post(this.lastReportTo, reportSecret, `in-${id}`, {
      type: 'text.received',
      data: { id, from: number, to, text, at },
    });
    return { reached: result.status === 200 };
  }
}
