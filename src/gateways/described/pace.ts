/** Longest wait for a turn, milliseconds: who waits longer comes again later, and holds up nobody. */
export const LONGEST_TURN_MS = 2000;

/** Gives out beginnings, so many in a second, to whoever shares them. */
export interface Turns {
  /** After how many milliseconds a call may begin; `taken` is false where that is more than `longestMs`, and none was given out. */
  take(key: string, perSecond: number, longestMs: number): Promise<{ wait: number; taken: boolean }>;
}

/** Turns of one process alone. */
export class OwnTurns implements Turns {
  private readonly next = new Map<string, number>();

  constructor(private readonly now: () => number) {}

  async take(key: string, perSecond: number, longestMs: number): Promise<{ wait: number; taken: boolean }> {
    const now = this.now();
    const at = Math.max(now, this.next.get(key) ?? 0);
    const wait = at - now;
    if (wait > longestMs) return { wait, taken: false };
    this.next.set(key, at + 1000 / perSecond);
    return { wait, taken: true };
  }
}

interface Lane {
  under: number;
  waiting: (() => void)[];
}

/** Keeps calls to what a service allows: so many begun in a second, by all who share the turns; so many under way, in this process. */
export class Pace {
  private readonly lanes = new Map<string, Lane>();

  constructor(
    private readonly turns: Turns,
    private readonly wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms)),
  ) {}

  /** Waits for a turn. Null when there is one; else after how many milliseconds to come again. `done` must be called after a turn. */
  async turn(key: string, { perSecond, atOnce }: { perSecond: number; atOnce: number }): Promise<number | null> {
    if (perSecond > 0) {
      const { wait, taken } = await this.turns.take(key, perSecond, LONGEST_TURN_MS);
      if (!taken) return wait;
      if (wait > 0) await this.wait(wait);
    }
    if (atOnce === 0) return null;
    const lane = this.lanes.get(key) ?? { under: 0, waiting: [] };
    this.lanes.set(key, lane);
    if (lane.under >= atOnce) await new Promise<void>((resolve) => lane.waiting.push(resolve));
    else lane.under += 1;
    return null;
  }

  done(key: string): void {
    const lane = this.lanes.get(key);
    if (!lane) return;
    const next = lane.waiting.shift();
    if (next) next();
    else lane.under = Math.max(0, lane.under - 1);
  }
}
