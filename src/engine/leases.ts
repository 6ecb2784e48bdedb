import type { HotStore } from '../db/hot/store.ts';
import { log } from '../log.ts';

/** How long a run belongs to a process that has stopped saying so. A dead process is noticed within this time. */
export const LEASE_SECONDS = 15;
const RENEW_MS = 4000;
/** Taken off the end, for clocks and statements under way. */
const MARGIN_MS = 2000;

/** The runs this process has, and until when. */
export class Leases {
  private readonly until = new Map<string, number>();
  private timer: NodeJS.Timeout | null = null;

  constructor(
    readonly holder: string,
    private readonly store: HotStore,
    private readonly now: () => number,
  ) {}

  start(): void {
    this.timer = setInterval(() => void this.renew(), RENEW_MS);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  take(runId: string): void {
    this.until.set(runId, this.now() + LEASE_SECONDS * 1000 - MARGIN_MS);
  }

  drop(runId: string): void {
    this.until.delete(runId);
  }

  /** Whether the run is surely still ours. Asked before anything is sent. */
  holds(runId: string): boolean {
    return (this.until.get(runId) ?? 0) > this.now();
  }

  /** Gives runs back at once, for any process to take. */
  async giveBack(runIds: string[]): Promise<void> {
    for (const id of runIds) this.drop(id);
    if (runIds.length > 0) await this.store.renew(this.holder, 0, runIds);
  }

  held(): string[] {
    return [...this.until.keys()];
  }

  private async renew(): Promise<void> {
    const asked = this.now();
    // Most runs are over before their first renewal: only what is half through its lease is asked for.
    const ids = this.held().filter((id) => (this.until.get(id) ?? 0) - asked < (LEASE_SECONDS * 1000) / 2 + MARGIN_MS);
    if (ids.length === 0) return;
    try {
      const kept = await this.store.renew(this.holder, LEASE_SECONDS, ids);
      for (const id of ids) {
        if (!kept.has(id)) this.drop(id);
        else if (this.until.has(id)) this.until.set(id, asked + LEASE_SECONDS * 1000 - MARGIN_MS);
      }
    } catch (error) {
      // The leases run out by themselves; until then the database may be back.
      log.error({ scope: 'leases', err: error }, 'not renewed');
    }
  }
}
