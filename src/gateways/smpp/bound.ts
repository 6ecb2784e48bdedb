import type { Socket } from 'node:net';
import smpp, { type Pdu, type Session } from 'smpp';
import { type Answer, noAnswer } from '../../core/delivery/answer.ts';
import { type BindTrouble, bindTrouble, sortSmppStatus } from '../../core/message/smpp/status.ts';

const { PDU, Session: SmppSession } = smpp;

/** SMPP 3.4 §7.2 leaves the times to whoever builds on it: common practice, no source. Milliseconds. */
const BIND_MS = 10_000;
const ENQUIRE_MS = 30_000;
const ENQUIRE_ANSWER_MS = 10_000;

/** One session, in which we send and are sent to. */
export class Bound {
  readonly ended: Promise<void>;
  private readonly session: Session;
  /** What is to be said to whoever waits when it breaks. */
  private readonly waiting = new Set<(answer: Pdu | null) => void>();
  private open = true;
  private enquiring: NodeJS.Timeout | null = null;

  constructor(
    private readonly socket: Socket,
    private readonly answerMs: number,
    private readonly brought: (pdu: Pdu, acknowledge: (status: number) => boolean) => Promise<void>,
  ) {
    socket.setNoDelay(true);
    socket.setKeepAlive(true, ENQUIRE_MS);
    this.session = new SmppSession({ socket });
    this.ended = new Promise((resolve) => {
      const over = () => {
        if (!this.open) return;
        this.open = false;
        if (this.enquiring) clearTimeout(this.enquiring);
        for (const tell of [...this.waiting]) tell(null);
        socket.destroy();
        resolve();
      };
      this.session.on('close', over);
      this.session.on('error', over);
      this.session.on('unbind', (pdu: Pdu) => {
        this.session.send(pdu.response());
        this.session.close();
        over();
      });
    });
    this.session.on('pdu', (pdu: Pdu) => {
      if (pdu.isResponse()) return;
      if (pdu.command === 'deliver_sm' || pdu.command === 'data_sm') {
        const acknowledge = (status: number) => this.session.send(pdu.response({ command_status: status }));
        void this.brought(pdu, acknowledge);
      } else if (pdu.command !== 'unbind' && pdu.command !== 'alert_notification') this.session.send(pdu.response());
    });
  }

  async bind({ user, password }: { user: string; password: string }): Promise<BindTrouble | null> {
    const answer = await this.ask('bind_transceiver', { system_id: user, password, interface_version: 0x34 }, BIND_MS);
    if (!answer) return { key: false, detail: 'What answers there does not speak SMPP, or does not let us in.' };
    if (answer.command !== 'bind_transceiver_resp')
      return { key: false, detail: 'The carrier does not let us send and receive in one session (transceiver).' };
    if (answer.command_status !== 0) return bindTrouble(answer.command_status);
    this.enquireLater();
    return null;
  }

  async submit(fields: Record<string, unknown>): Promise<Answer> {
    if (!this.open) return noAnswer('no-session', 'The connection to the carrier broke.');
    const sent: { is: boolean } = { is: false };
    const answer = await this.ask('submit_sm', fields, this.answerMs, sent);
    if (answer) return sortSmppStatus(answer.command_status, String(answer.message_id ?? '') || null);
    if (!sent.is) return noAnswer('no-session', 'The connection to the carrier broke.');
    // Whatever has become of it: a session in which nothing is answered any more is begun anew.
    void this.enquire();
    return {
      kind: 'unsure',
      code: 'no-answer',
      detail: 'The carrier was given the text and did not say whether it took it.',
    };
  }

  /** Asks, and waits for the answer; null when none comes. */
  private ask(command: string, fields: Record<string, unknown>, ms: number, sent = { is: false }): Promise<Pdu | null> {
    return new Promise((resolve) => {
      const tell = (answer: Pdu | null) => {
        clearTimeout(timer);
        this.waiting.delete(tell);
        resolve(answer);
      };
      const timer = setTimeout(() => tell(null), ms);
      this.waiting.add(tell);
      sent.is = this.open && this.session.send(new PDU(command, fields), tell);
      if (!sent.is) tell(null);
    });
  }

  private enquireLater(): void {
    this.enquiring = setTimeout(async () => {
      await this.enquire();
      if (this.open) this.enquireLater();
    }, ENQUIRE_MS).unref();
  }

  private async enquire(): Promise<void> {
    const answer = await this.ask('enquire_link', {}, Math.min(this.answerMs, ENQUIRE_ANSWER_MS));
    if (!answer) this.break();
  }

  /** Says goodbye when what is in hand has been answered. */
  async end(): Promise<void> {
    const until = Date.now() + 2000;
    while (this.open && this.waiting.size > 0 && Date.now() < until)
      await new Promise((resolve) => setTimeout(resolve, 50));
    await this.ask('unbind', {}, 1000);
    this.break();
  }

  break(): void {
    this.socket.destroy();
  }
}
