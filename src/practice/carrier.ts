import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import parsePhone from 'libphonenumber-js/max';
import { signedPost } from './signed-post.ts';
import { type Refused, takeMessage } from './take-message.ts';
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
  take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { trouble } = this.world.state;
    return takeMessage(
      this.world,
      {
        token: this.token,
        down: trouble.carrierDown,
        busy: trouble.carrierBusy,
        slowMs: trouble.carrierSlow ? SLOW_MS : 0,
        refuse: (to, text) => this.refusal(to, text),
        put: ({ id, at, to, text, from }) =>
          this.world.phone(to).messages.push({ id, at, direction: 'to_phone', text, with: from }),
        sent: (reportTo, key) =>
          this.report(reportTo, key, {
            type: 'text.delivered',
            data: { reference: key, at: new Date().toISOString() },
          }),
      },
      request,
      response,
    );
  }

  private refusal(to: string, text: string): Refused | null {
    const refused = (code: string, detail: string) => ({ status: 422, code, detail });
    const number = parsePhone(to);
    if (!number?.isPossible()) return refused('not-a-number', 'Not a phone number');
    if (text === '') return refused('empty', 'The text is empty');
    if (this.world.state.trouble.refusedNumbers.includes(to))
      return refused('blocked', "The number can't receive texts");
    if (number.getType() === 'FIXED_LINE') return refused('not-mobile', 'Not a mobile number');
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
