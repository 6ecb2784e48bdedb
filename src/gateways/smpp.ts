import { randomBytes, randomInt } from 'node:crypto';
import type { Socket } from 'node:net';
import smpp, { type Pdu, type Session } from 'smpp';
import type { Answer } from '../core/delivery/answer.ts';
import { noAnswer } from '../core/delivery/answer.ts';
import { type HandedOver, kindOf } from '../core/message/smpp/incoming.ts';
import {
  CODING,
  type Encoding,
  type Letters,
  outgoingParts,
  partHeader,
  smppAddress,
  writtenBy,
} from '../core/message/smpp/outgoing.ts';
import { type BindTrouble, bindTrouble, sortSmppStatus } from '../core/message/smpp/status.ts';
import { type AddressGuard, AddressRefused } from './address-guard.ts';
import type { CallSeen } from './described/described-caller.ts';
import { OwnTurns, Pace, type Turns } from './described/pace.ts';
import { guardedSocket } from './guarded-socket.ts';
import { certificateWords } from './http.ts';

/** An account at a text carrier that is reached by SMPP 3.4. */
export interface SmppAccount {
  connectionId: string;
  /** smpp://host:port, or smpps://host:port by TLS. */
  address: string;
  user: string;
  password: string;
  letters: Letters;
  /** Texts handed over in a second at most; 0 for as many as there are. */
  perSecond: number;
  /** Texts handed over and not answered yet at most. */
  window: number;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}

/** What came in, with a name that is the same when the carrier hands it over once more. */
export interface Heard {
  id: string;
  got: HandedOver;
}
/** Takes what comes in; thrown errors have the carrier bring it again. */
export type Hearing = (connectionId: string, heard: Heard) => Promise<void>;

export type LookedIn = { ok: true } | { ok: false; refused: boolean; detail: string };

const { encodings, PDU, Session: SmppSession } = smpp;

/** SMPP 3.4 §7.2 leaves the times to whoever builds on it: common practice, no source. Milliseconds. */
const ANSWER_MS = 20_000;
const BIND_MS = 10_000;
const ENQUIRE_MS = 30_000;
const ENQUIRE_ANSWER_MS = 10_000;
/** So long the parts of one text are tried on, when the first have been taken and the carrier asks for patience. */
const PARTS_MS = 15_000;
/** After a session that did not come about: the first pause and the longest. */
const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 30_000;
/** How long what a carrier brought and could not be told that it was taken is known again. */
const KNOWN_AGAIN_MS = 10 * 60_000;
/** Reported as taken for now, to be brought again: ESME_RX_T_APPN of §5.1.3. */
const BRING_AGAIN = 0x64;

const PACE = 'pace';
/** A session by which nothing has gone for so long is ended, where nobody listens by it. */
const IDLE_MS = 5 * 60_000;
const JUST_USED_MS = 10_000;

const PORT = { 'smpp:': 2775, 'smpps:': 3550 } as const;

/** Thrown where no session comes about. */
class NoSession extends Error {
  constructor(
    readonly trouble: BindTrouble,
    readonly afterMs: number | null = null,
  ) {
    super(trouble.detail);
  }
}

interface Kept {
  account: SmppAccount;
  what: string;
  session: Promise<Bound> | null;
  failures: number;
  /** Not before that, milliseconds since 1970. */
  nextAt: number;
  trouble: BindTrouble | null;
  /** When something went by it last, milliseconds since 1970. */
  usedAt: number;
}

const whatOf = ({ connectionId: _, ...account }: SmppAccount) => JSON.stringify(account);

/** Sessions with carriers, one for each account in each process: kept open, asked whether they live, begun anew when they break. */
export class SmppSessions {
  private readonly kept = new Map<string, Kept>();
  private readonly pace: Pace;
  /** What was brought and could not be acknowledged, with the name it was taken by. */
  private readonly unacknowledged = new Map<string, { id: string; until: number }>();
  private hearing: Hearing | null = null;
  private closed = false;
  /** Accounts by which somebody listens in this process, by connection. */
  private listened: ReadonlySet<string> = new Set();
  private sweep: NodeJS.Timeout | null = null;
  /** What somebody wrote is taken one after the other, by connection: the order in which they wrote. */
  private readonly turns = new Map<string, Promise<void>>();

  constructor(
    private readonly parts: {
      guard: AddressGuard;
      now: () => number;
      seen: (call: CallSeen) => void;
      /** How long the answer to a text is waited for, milliseconds. */
      answerMs?: number;
      /** Shared with other processes; those of this one alone where there are none. */
      turns?: Turns;
    },
  ) {
    this.pace = new Pace(parts.turns ?? new OwnTurns(parts.now));
  }

  /** Who takes what comes in. */
  listen(hearing: Hearing): void {
    this.hearing = hearing;
  }

  /** Hands a text over. What was handed over and not answered is unsure: there is no key by which a carrier would know it again. */
  async send(account: SmppAccount, { to, from, text }: { to: string; from: string; text: string }): Promise<Answer> {
    const began = this.parts.now();
    const answer = await this.sendAll(account, { to, from, text });
    // Waiting for a turn says nothing of the carrier.
    if (answer.code === PACE) return answer;
    const answered = answer.kind === 'accepted' || answer.code.startsWith('smpp-');
    this.parts.seen({
      connectionId: account.connectionId,
      answered,
      well: answer.kind === 'accepted' || (answered && answer.kind === 'refused'),
      ms: this.parts.now() - began,
      problem: answer.kind === 'accepted' ? '' : answer.detail,
      at: this.parts.now(),
    });
    return answer;
  }

  private async sendAll(account: SmppAccount, message: { to: string; from: string; text: string }): Promise<Answer> {
    let bound: Bound;
    try {
      bound = await this.sessionOf(account);
    } catch (error) {
      if (!(error instanceof NoSession)) throw error;
      const { key, detail } = error.trouble;
      return key
        ? { kind: 'refused', code: 'sign-in', detail }
        : { kind: 'again', code: 'no-session', detail, afterMs: error.afterMs };
    }
    const { encoding, parts } = outgoingParts(message.text, account.letters);
    if (parts.length === 0) return { kind: 'refused', code: 'empty', detail: 'There is nothing in this text.' };
    if (parts.length > 255)
      return { kind: 'refused', code: 'too-long', detail: 'The text is longer than phones can put together.' };
    const reference = randomInt(256);
    const fields = (index: number) => submission(message, encoding, parts, index, reference);
    const taken: string[] = [];
    const until = this.parts.now() + PARTS_MS;
    for (let index = 0; index < parts.length; ) {
      const wait = await this.pace.turn(account.connectionId, { perSecond: account.perSecond, atOnce: account.window });
      let answer: Answer;
      if (wait !== null)
        answer = { kind: 'again', code: PACE, detail: 'Waits for its turn at the carrier', afterMs: wait };
      else
        try {
          answer = await bound.submit(fields(index));
        } finally {
          this.pace.done(account.connectionId);
        }
      if (answer.kind === 'accepted') {
        taken.push(...(answer.remoteId ? [answer.remoteId] : []));
        index++;
        continue;
      }
      if (index === 0) return answer;
      // Some of it is with the carrier: the rest goes after it, or a person is told.
      if (answer.kind === 'again' && this.parts.now() < until) {
        await new Promise((resolve) =>
          setTimeout(resolve, Math.min(answer.kind === 'again' ? (answer.afterMs ?? 1000) : 0, 2000)),
        );
        // Where the session broke, the rest goes by the next.
        bound = await this.sessionOf(account).catch(() => bound);
        continue;
      }
      return {
        kind: 'unsure',
        code: answer.code,
        detail: `${index} of its ${parts.length} parts ${index === 1 ? 'was' : 'were'} taken, the next was not. ${answer.detail}`,
      };
    }
    return {
      kind: 'accepted',
      code: 'smpp-0',
      detail: 'Accepted by the carrier',
      remoteId: taken[0] ?? null,
      remoteIds: taken,
    };
  }

  /**
   * Goes in twice at a time and out again: each process of ours has a session of its own. What is known of the account in this process is left as it is.
   */
  async lookIn(account: SmppAccount): Promise<LookedIn> {
    const opened: Bound[] = [];
    try {
      for (let n = 0; n < 2; n++) opened.push(await this.open(account));
      return { ok: true };
    } catch (error) {
      if (!(error instanceof NoSession)) throw error;
      const { key, detail } = error.trouble;
      if (opened.length === 0) return { ok: false, refused: key, detail };
      return {
        ok: false,
        refused: false,
        detail: 'The carrier lets us in, but only once at a time, and two sessions are needed: ask it to allow two.',
      };
    } finally {
      for (const bound of opened) void bound.end();
    }
  }

  /** Who was removed or changed elsewhere is not held on to by a process that only sends. */
  private endIdle(): void {
    for (const [id, { session, usedAt }] of this.kept)
      if (!this.listened.has(id) && usedAt < this.parts.now() - IDLE_MS) {
        this.kept.delete(id);
        void session?.then(
          (bound) => bound.end(),
          () => {},
        );
      }
  }

  /** Has sessions open for these accounts, so that what comes in is heard, and for no others. */
  async keep(accounts: readonly SmppAccount[]): Promise<void> {
    const wanted = new Set(accounts.map(({ connectionId }) => connectionId));
    this.listened = wanted;
    // One that has been connected since these were looked up is in use.
    for (const [id, { session, usedAt }] of this.kept)
      if (!wanted.has(id) && usedAt < this.parts.now() - JUST_USED_MS) {
        this.kept.delete(id);
        void session?.then(
          (bound) => bound.end(),
          () => {},
        );
      }
    await Promise.all(
      accounts.map((account) =>
        this.sessionOf(account).catch((error) => {
          if (!(error instanceof NoSession)) throw error;
        }),
      ),
    );
  }

  async close(): Promise<void> {
    this.closed = true;
    if (this.sweep) clearInterval(this.sweep);
    const open = [...this.kept.values()].map(({ session }) =>
      session?.then(
        (bound) => bound.end(),
        () => {},
      ),
    );
    this.kept.clear();
    await Promise.all(open);
  }

  private sessionOf(account: SmppAccount): Promise<Bound> {
    const { now } = this.parts;
    const what = whatOf(account);
    let kept = this.kept.get(account.connectionId);
    if (!kept || kept.what !== what) {
      // What is in hand there comes to its end.
      void kept?.session?.then(
        (bound) => bound.end(),
        () => {},
      );
      kept = { account, what, session: null, failures: 0, nextAt: 0, trouble: null, usedAt: now() };
      this.kept.set(account.connectionId, kept);
    }
    kept.usedAt = now();
    this.sweep ??= setInterval(() => this.endIdle(), IDLE_MS / 5).unref();
    if (kept.session) return kept.session;
    const left = kept.nextAt - now();
    if (left > 0 && kept.trouble) return Promise.reject(new NoSession(kept.trouble, left));
    const own = kept;
    own.session = this.open(account).then(
      (bound) => {
        own.failures = 0;
        own.trouble = null;
        void bound.ended.then(() => {
          own.session = null;
        });
        return bound;
      },
      (error: unknown) => {
        own.session = null;
        own.failures += 1;
        own.trouble =
          error instanceof NoSession ? error.trouble : { key: false, detail: 'The carrier cannot be reached.' };
        const pause = Math.min(LONGEST_PAUSE_MS, FIRST_PAUSE_MS * 2 ** Math.min(10, own.failures - 1));
        own.nextAt = now() + pause;
        this.parts.seen({
          ...{ connectionId: account.connectionId, answered: false, well: false, ms: 0 },
          ...{ problem: own.trouble.detail, at: now() },
        });
        throw new NoSession(own.trouble, pause);
      },
    );
    return own.session;
  }

  private async open(account: SmppAccount): Promise<Bound> {
    if (this.closed) throw new NoSession({ key: false, detail: 'Pine Bell is closing.' });
    let socket: Socket;
    try {
      const url = new URL(account.address);
      this.parts.guard.check(url);
      const secure = url.protocol === 'smpps:';
      const host = url.hostname.replace(/^\[|\]$/g, '');
      const port = Number(url.port || PORT[secure ? 'smpps:' : 'smpp:']);
      socket = await guardedSocket(this.parts.guard, { host, port, secure, authority: account.authority });
    } catch (error) {
      throw new NoSession({ key: false, detail: wordsOf(error as Error) });
    }
    const bound = new Bound(socket, this.parts.answerMs ?? ANSWER_MS, (pdu, acknowledge) =>
      this.hear(account.connectionId, pdu, acknowledge),
    );
    const trouble = await bound.bind(account);
    if (!trouble) return bound;
    bound.break();
    throw new NoSession(trouble);
  }

  /** Takes what was brought, and says so; what cannot be taken just now is asked for again. */
  private async hear(connectionId: string, pdu: Pdu, acknowledge: (status: number) => boolean): Promise<void> {
    const got = handedOver(pdu);
    const kind = kindOf(got);
    if (kind === 'nothing') return void acknowledge(0);
    if (kind === 'receipt') return this.take(connectionId, got, acknowledge);
    const turn = (this.turns.get(connectionId) ?? Promise.resolve()).then(() =>
      this.take(connectionId, got, acknowledge),
    );
    this.turns.set(connectionId, turn);
    await turn;
  }

  private async take(connectionId: string, got: HandedOver, acknowledge: (status: number) => boolean): Promise<void> {
    const same = JSON.stringify([connectionId, got.from, got.to, got.text, got.esmClass]);
    const before = this.unacknowledged.get(same);
    const id = before && before.until > this.parts.now() ? before.id : randomBytes(12).toString('hex');
    try {
      if (!this.hearing) throw new Error('nobody listens');
      await this.hearing(connectionId, { id, got });
    } catch {
      return void acknowledge(BRING_AGAIN);
    }
    if (acknowledge(0)) this.unacknowledged.delete(same);
    // The carrier will bring it again, as it does not know that it was taken.
    else this.unacknowledged.set(same, { id, until: this.parts.now() + KNOWN_AGAIN_MS });
    for (const [key, { until }] of this.unacknowledged) if (until <= this.parts.now()) this.unacknowledged.delete(key);
  }
}

/** One session, in which we send and are sent to. */
class Bound {
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

  async bind({ user, password }: SmppAccount): Promise<BindTrouble | null> {
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

/** The fields of one part that is handed over. */
function submission(
  { to, from }: { to: string; from: string },
  encoding: Encoding,
  parts: readonly string[],
  index: number,
  reference: number,
): Record<string, unknown> {
  const sender = smppAddress(from);
  const receiver = smppAddress(to);
  const several = parts.length > 1;
  const header = several ? Buffer.from(partHeader(reference, parts.length, index + 1)) : Buffer.alloc(0);
  return {
    source_addr_ton: sender.ton,
    source_addr_npi: sender.npi,
    source_addr: sender.address,
    dest_addr_ton: receiver.ton,
    dest_addr_npi: receiver.npi,
    destination_addr: receiver.address,
    // Bit 6: a user data header comes first.
    esm_class: several ? 0x40 : 0,
    // Final receipts, of what arrives and of what does not.
    registered_delivery: 1,
    data_coding: CODING[encoding],
    short_message: Buffer.concat([header, bytesOf(parts[index]!, encoding)]),
  };
}

function bytesOf(text: string, encoding: Encoding): Buffer {
  if (encoding === 'GSM-7') return encodings.ASCII.encode(text);
  if (encoding === 'Latin-1') return Buffer.from(text, 'latin1');
  return Buffer.from(text, 'utf16le').swap16();
}

/** What was brought, as far as the package understands it. */
function handedOver(pdu: Pdu): HandedOver {
  interface Read {
    message?: unknown;
    udh?: Uint8Array[];
  }
  const short = pdu.short_message as Read | undefined;
  const long = pdu.message_payload as Read | undefined;
  const read = long?.message !== undefined && long.message !== '' ? long : short;
  let text = typeof read?.message === 'string' ? read.message : '';
  // IA5 (data_coding 1), which the package reads as the 7-bit alphabet of phones.
  if (pdu.data_coding === 1) text = encodings.ASCII.encode(text).toString('latin1');
  const number = (name: string): number | null => (typeof pdu[name] === 'number' ? (pdu[name] as number) : null);
  const [ref, total, part] = [number('sar_msg_ref_num'), number('sar_total_segments'), number('sar_segment_seqnum')];
  const receipted = pdu.receipted_message_id;
  return {
    esmClass: number('esm_class') ?? 0,
    from: writtenBy({ ton: number('source_addr_ton') ?? 0, address: String(pdu.source_addr ?? '') }),
    to: writtenBy({ ton: number('dest_addr_ton') ?? 0, address: String(pdu.destination_addr ?? '') }),
    text,
    header: short?.udh ?? [],
    sar: ref !== null && total !== null && part !== null ? { reference: ref, total, number: part } : null,
    receiptedId: receipted === undefined || receipted === null ? null : String(receipted).replaceAll('\0', '') || null,
    messageState: number('message_state'),
  };
}

function wordsOf(error: Error & { code?: string }): string {
  if (error instanceof AddressRefused) return `The carrier cannot be used: ${error.message}.`;
  const certificate = certificateWords(error.message);
  if (certificate) return certificate;
  if (error.code === 'ETIMEDOUT') return 'The carrier did not answer in time.';
  return 'The carrier does not answer.';
}
