/** A wait this short is slept through with the run still in hand; a longer one gives the run back when nothing else is going on. */
const SHORT_MS = 2000;

/** Whether a wait (milliseconds) is one to leave the run for. */
export const rests = (ms: number): boolean => ms > SHORT_MS;

/** Does `then` once so many milliseconds have passed; what it gives calls it off. */
export type Later = (ms: number, then: () => void) => () => void;

/** The clock on the wall. */
export const byTheClock: Later = (ms, then) => {
  const timer = setTimeout(then, ms);
  return () => clearTimeout(timer);
};

/** What a step of a lane has to be left waiting for. */
export interface LaneWait {
  /** Milliseconds. */
  until: number;
  /** What stands below it in its lane waits as well; the lane is counted as at rest then. */
  holds: boolean;
}

/** Counts the lanes of a moment that are doing something, so that a run is kept as long as any of them is. */
export class LanesAtWork {
  private readonly sleepers = new Set<() => void>();

  constructor(
    private busy: number,
    private readonly later: Later,
  ) {}

  /** A lane has come to its end. */
  finished(): void {
    this.busy -= 1;
    if (this.busy === 0) for (const wake of this.sleepers) wake();
  }

  /** Waits `ms`. False when every other lane came to rest before: then this lane is at rest too, and counted so. */
  async wait(ms: number): Promise<boolean> {
    if (!rests(ms)) {
      await new Promise<void>((resolve) => this.later(Math.max(0, ms), resolve));
      return true;
    }
    return new Promise((resolve) => {
      const end = (reached: boolean) => {
        callOff();
        this.sleepers.delete(giveUp);
        if (reached) this.busy += 1;
        resolve(reached);
      };
      const giveUp = () => end(false);
      const callOff = this.later(ms, () => end(true));
      this.sleepers.add(giveUp);
      this.finished();
    });
  }
}
