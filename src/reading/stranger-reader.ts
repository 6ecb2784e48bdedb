import { Piscina } from 'piscina';
import type { Hears } from '../core/described/description.ts';
import type { SourceKind, SourceReading } from '../core/source/source-kind.ts';
import type { Readings, ReadMail } from './task.ts';

/** Longest anything may take to be read, milliseconds, its time in the queue with it. */
const LONGEST_MS = 8_000;
/** Memory of a reading thread, in megabytes. */
const THREAD_MB = 256;
/** Up to here JSON and forms are read where they came in: it takes less than handing them over, and far less than 5 ms. */
const SMALL = 32 * 1024;
const LIGHT = /^(application\/([\w.-]+\+)?json|application\/x-www-form-urlencoded|text\/plain|)$/;

/** Something that was not read because of what reading it would cost. */
export class TooHeavy extends Error {
  readonly code = 'too-heavy';
  constructor() {
    super('It takes too long to read, and was left as it came. Send it in smaller parts.');
  }
}

/**
 * Reads what strangers send. What may be heavy is read in threads with a limit of time and memory: one that goes beyond it is ended and begun again,
 * and only what it was reading is refused.
 */
export class StrangerReader {
  private pool: Piscina | null = null;

  /** `threadFile` is the built thread.ts. */
  constructor(private readonly threadFile: string) {}

  /** An arrival by its kind of source. */
  async arrival(
    kind: SourceKind,
    raw: Readings['arrival']['asked']['raw'],
    settings: unknown,
    hears?: Hears | null,
  ): Promise<SourceReading> {
    const type = raw.contentType.split(';')[0]!.trim().toLowerCase();
    if (raw.body.length <= SMALL && LIGHT.test(type)) return kind.read(raw, settings, hears);
    try {
      return await this.read('arrival', { kind: kind.kind, raw, settings, hears });
    } catch (error) {
      if (error instanceof TooHeavy) return { ok: false, code: error.code, problem: error.message };
      throw error;
    }
  }

  /** A mail that came back (`report`) or is an answer. One that takes too long to read is a mail all the same. */
  async mail(body: Uint8Array, report: boolean): Promise<ReadMail> {
    try {
      return await this.read('mail', { body, report });
    } catch (error) {
      if (!(error instanceof TooHeavy)) throw error;
      const subject = 'A mail that takes too long to read';
      return { headerLines: [], from: '', subject, text: '', reply: subject, messageId: null, reports: [] };
    }
  }

  /** @throws TooHeavy, and whatever the reader throws. */
  async read<What extends keyof Readings>(
    what: What,
    asked: Readings[What]['asked'],
  ): Promise<Readings[What]['gives']> {
    this.pool ??= new Piscina({
      filename: this.threadFile,
      minThreads: 0,
      maxThreads: 2,
      idleTimeout: 60_000,
      resourceLimits: { maxOldGenerationSizeMb: THREAD_MB },
    });
    const ended = new AbortController();
    const timer = setTimeout(() => ended.abort(), LONGEST_MS);
    try {
      return (await this.pool.run({ what, ...asked }, { signal: ended.signal })) as Readings[What]['gives'];
    } catch (error) {
      const { name, code } = error as Error & { code?: string };
      if (name === 'AbortError' || code === 'ERR_WORKER_OUT_OF_MEMORY') throw new TooHeavy();
      throw error;
    } finally {
      clearTimeout(timer);
    }
  }

  async close(): Promise<void> {
    await this.pool?.destroy();
  }
}
