/** Longest wait for a turn, milliseconds: who waits longer comes again later, and holds up nobody. */
const LONGEST_MS = 2000;

interface Lane {
  /** When the next call may begin, milliseconds since 1970. */
  next: number;
  under: number;
  waiting: (() => void)[];
}

/** Keeps calls to what a service allows: so many begun in a second, so many under way. For one process; several share nothing. */
export class Pace {
  private readonly lanes = new Map<string, Lane>();

  constructor(
    private readonly now: () => number,
    private readonly wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms)),
  ) {}

  /** Waits for a turn. Null when there is one; else after how many milliseconds to come again. `done` must be called after a turn. */
  async turn(key: string, { perSecond, atOnce }: { perSecond: number; atOnce: number }): Promise<number | null> {
    if (perSecond === 0 && atOnce === 0) return null;
    const lane = this.lanes.get(key) ?? { next: 0, under: 0, waiting: [] };
    this.lanes.set(key, lane);
    if (perSecond > 0) {
      const at = Math.max(this.now(), lane.next);
      const wait = at - this.now();
      if (wait > LONGEST_MS) return wait;
      lane.next = at + 1000 / perSecond;
      if (wait > 0) await this.wait(wait);
    }
    if (atOnce > 0 && lane.under >= atOnce) await new Promise<void>((resolve) => lane.waiting.push(resolve));
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
