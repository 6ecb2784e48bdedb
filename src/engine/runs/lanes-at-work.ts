/** A wait this short is slept through with the run still in hand; a longer one gives the run back when nothing else is going on. */
const SHORT_MS = 2000;

/** Whether a wait (milliseconds) is one to leave the run for. */
export const rests = (ms: number): boolean => ms > SHORT_MS;

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

  constructor(private busy: number) {}

  /** A lane has come to its end. */
  finished(): void {
    this.busy -= 1;
    if (this.busy === 0) for (const wake of this.sleepers) wake();
  }

  /** Waits `ms`. False when every other lane came to rest before: then this lane is at rest too, and counted so. */
  async wait(ms: number): Promise<boolean> {
    if (!rests(ms)) {
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, ms)));
      return true;
    }
    return new Promise((resolve) => {
      const end = (reached: boolean) => {
        clearTimeout(timer);
        this.sleepers.delete(giveUp);
        if (reached) this.busy += 1;
        resolve(reached);
      };
      const giveUp = () => end(false);
      const timer = setTimeout(() => end(true), ms);
      this.sleepers.add(giveUp);
      this.finished();
    });
  }
}
