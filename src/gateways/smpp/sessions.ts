import { randomBytes, randomInt } from 'node:crypto';
import type { Socket } from 'node:net';
import type { Pdu } from 'smpp';
import type { Answer } from '../../core/delivery/answer.ts';
import { type HandedOver, kindOf } from '../../core/message/smpp/incoming.ts';
import { type Letters, outgoingParts } from '../../core/message/smpp/outgoing.ts';
import type { BindTrouble } from '../../core/message/smpp/status.ts';
import { type AddressGuard, AddressRefused } from '../address-guard.ts';
import type { CallSeen } from '../described/described-caller.ts';
import { OwnTurns, Pace, type Turns } from '../described/pace.ts';
import { guardedSocket } from '../guarded-socket.ts';
import { certificateWords } from '../http.ts';
import { Bound } from './bound.ts';
import { handedOver, submission } from './units.ts';

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

/** How long the answer to a text is waited for, milliseconds: SMPP 3.4 §7.2 leaves it to whoever builds on it. Common practice, no source. */
const ANSWER_MS = 20_000;
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

function wordsOf(error: Error & { code?: string }): string {
  if (error instanceof AddressRefused) return `The carrier cannot be used: ${error.message}.`;
  const certificate = certificateWords(error.message);
  if (certificate) return certificate;
  if (error.code === 'ETIMEDOUT') return 'The carrier did not answer in time.';
  return 'The carrier does not answer.';
}
