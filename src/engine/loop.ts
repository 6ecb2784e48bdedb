import { failureWords } from '../failure-words.ts';
import { log } from '../log.ts';

/** How a loop is doing, for whoever watches over it. Times in milliseconds since 1970. */
export interface LoopState {
  name: string;
  /** When it looked last and came to an end with it. */
  lookedAt: number | null;
  /** Looks that have failed one after the other; 0 while all is well. */
  failures: number;
  problem: string | null;
  /** Pieces of work in hand just now. */
  going: number;
}

/** After a failure it looks again after so long, in milliseconds, or its usual pause where that is shorter; then less and less often, up to so many times of it. */
const AFTER_FAILURE_MS = 500;
const MOST_PAUSES = 16;
/** A tenth around the pause by chance, so that processes do not all look in the same instant. */
const JITTER = 0.1;

/**
 * Looks again and again for something to do. One look at a time; a failed one is counted, written to the log and tried again, later and later. Asked
 * to stop, it finishes what it has in hand.
 */
export abstract class Loop {
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;
  private again = false;
  private everyMs: number | null = null;
  private readonly hand = new Set<Promise<void>>();
  private readonly how: Omit<LoopState, 'name' | 'going'> = { lookedAt: null, failures: 0, problem: null };
  private ended = false;

  protected constructor(
    readonly name: string,
    /** SQL, true while anything is due; null for one that looks by itself only. */
    readonly due: string | null,
    private readonly random: () => number = Math.random,
  ) {}

  /** Looks once. True when there may be more at once. */
  protected abstract look(): Promise<boolean>;

  state(): LoopState {
    return { name: this.name, ...this.how, going: this.hand.size };
  }

  /** Asked to stop: what is in hand comes to an end soon. */
  get stopping(): boolean {
    return this.ended;
  }

  /** From now on it looks by itself, with this pause between two looks. */
  start(everyMs: number): void {
    this.everyMs = everyMs;
    this.poke();
  }

  /** Something is to be done now: it looks at once, or once more when it is looking already. */
  poke(): void {
    if (this.ended) return;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.again = true;
    this.looking ??= this.lookOn().finally(() => {
      this.looking = null;
      if (this.again) this.poke();
      else if (this.everyMs !== null && !this.ended)
        this.timer = setTimeout(() => this.poke(), this.pause(this.everyMs));
    });
  }

  /** There is something due, as far as anybody can tell from outside: it looks, unless it has just failed and pauses. */
  wake(): void {
    if (this.how.failures === 0) this.poke();
  }

  /** The same as a poke for one that may look by itself in another process only: there it is found a little later. */
  nudge(): void {
    if (this.everyMs !== null) this.poke();
  }

  private async lookOn(): Promise<void> {
    while (this.again && !this.ended) {
      this.again = false;
      try {
        if (await this.look()) this.again = true;
        Object.assign(this.how, { lookedAt: Date.now(), failures: 0, problem: null });
      } catch (error) {
        this.how.failures += 1;
        this.how.problem = failureWords(error);
        log.error({ scope: this.name, failures: this.how.failures, err: error }, 'looking failed');
        this.again = false;
      }
    }
    if (this.ended) this.again = false;
  }

  private pause(everyMs: number): number {
    const { failures } = this.how;
    const usual = failures === 0 ? everyMs : Math.min(everyMs, AFTER_FAILURE_MS);
    const longer = Math.min(MOST_PAUSES, 2 ** Math.max(0, failures - 1));
    return usual * longer * (1 - JITTER + 2 * JITTER * this.random());
  }

  /** Does something beside the looking; `stop` waits for it. What it fails with is written to the log: its lease brings it back. */
  protected inHand(about: Record<string, string>, work: Promise<void>): void {
    const kept: Promise<void> = work
      .catch((error) => log.error({ scope: this.name, ...about, err: error }, 'a piece of work failed'))
      .finally(() => {
        this.hand.delete(kept);
        this.poke();
      });
    this.hand.add(kept);
  }

  protected get going(): number {
    return this.hand.size;
  }

  /** Takes nothing more on, and waits for what is in hand, for `graceMs` at most. */
  async stop(graceMs: number = Number.POSITIVE_INFINITY): Promise<void> {
    this.ended = true;
    if (this.timer) clearTimeout(this.timer);
    await this.looking;
    const done = Promise.all(this.hand);
    if (graceMs === Number.POSITIVE_INFINITY) await done;
    else {
      let over: NodeJS.Timeout | undefined;
      await Promise.race([done, new Promise((resolve) => (over = setTimeout(resolve, graceMs)))]);
      clearTimeout(over);
    }
  }
}

/** What a queue of leased rows is worked off with. */
export interface LeasedWork<T> {
  name: string;
  /** Pieces in hand at the same time. */
  atOnce: number;
  /** Places that are to be free before it takes more, where one by one each would cost a statement of its own; 1 when not said. */
  takesAtLeast?: number;
  /** SQL, true while anything is due. */
  due: string;
  /** Takes up to `most` that are due, and holds them by a lease that runs out by itself: whatever dies, they come back. */
  lease(most: number): Promise<T[]>;
  work(one: T): Promise<void>;
  /** What a piece is about, for the log, by id. */
  about(one: T): Record<string, string>;
  random?: () => number;
}

/** Works a queue off: takes what is due, as many as there is room for, and goes on until nothing is. */
export class LeasedLoop<T> extends Loop {
  constructor(private readonly queue: LeasedWork<T>) {
    super(queue.name, queue.due, queue.random);
  }

  protected async look(): Promise<boolean> {
    const room = this.queue.atOnce - this.going;
    if (room < (this.queue.takesAtLeast ?? 1)) return false;
    const taken = await this.queue.lease(room);
    for (const one of taken) this.inHand(this.queue.about(one), this.queue.work(one));
    return false;
  }
}

/** Looks at something as a whole, one look after the other. */
export class PlainLoop extends Loop {
  constructor(
    name: string,
    private readonly once: () => Promise<void>,
    due: string | null = null,
  ) {
    super(name, due);
  }

  protected async look(): Promise<boolean> {
    await this.once();
    return false;
  }
}
