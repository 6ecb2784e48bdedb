import type { DueRun } from '../../db/hot/rows.ts';
import { log } from '../../log.ts';
import type { Bell } from '../bell.ts';
import { LEASE_SECONDS } from '../leases.ts';
import { PlainLoop } from '../loop.ts';
import type { SettingsCache } from '../settings-cache.ts';
import type { EngineParts } from './engine-parts.ts';
import type { LeasedRun } from './leased-run.ts';
import { runThrough } from './run-through.ts';
import { takenUp } from './take-up.ts';
import { namesTouch, touchesOf } from './touches.ts';

/** Runs worked on at once in one process; most of their time is waiting for the outside world. */
const AT_ONCE = 200;
/** Runs waiting in memory beyond this are given back for other processes. */
const MOST_WAITING = 1000;

/** Takes runs to their end: those just accepted by this process, and those that are due. */
export class Conductor {
  private readonly waiting: LeasedRun[] = [];
  private going = 0;
  private readonly goingBy = new Map<string, number>();
  /** With all places taken there may be more due: it looks again as soon as one is free. */
  private full = false;
  private stopping = false;
  /** Waits that ended, and what a dead process left. */
  readonly loop = new PlainLoop(
    'runs',
    () => this.takeDue(),
    'exists (select from run where due_at <= now() and held_at is null)',
  );

  constructor(
    private readonly parts: EngineParts,
    private readonly settingsCache: SettingsCache,
    private readonly bell: Bell,
  ) {}

  /** A run this process has just accepted, or was given; its lease is already taken in the database. */
  begin(run: LeasedRun): void {
    if (this.stopping || this.waiting.length >= MOST_WAITING) {
      void this.parts.leases.giveBack([run.id]).catch(() => {});
      return;
    }
    this.parts.leases.take(run.id);
    this.waiting.push(run);
    this.next();
  }

  private next(): void {
    for (let i = 0; this.going < AT_ONCE && i < this.waiting.length; ) {
      const run = this.waiting[i]!;
      const { workflowId } = run;
      const most = run.definition.rules.mostAtOnce;
      const now = this.goingBy.get(workflowId) ?? 0;
      if (most !== null && now >= most) {
        i += 1;
        continue;
      }
      this.waiting.splice(i, 1);
      this.going += 1;
      this.goingBy.set(workflowId, now + 1);
      void this.conduct(run).finally(() => {
        this.going -= 1;
        const left = this.goingBy.get(workflowId)! - 1;
        if (left > 0) this.goingBy.set(workflowId, left);
        else this.goingBy.delete(workflowId);
        this.next();
        if (this.full) this.loop.poke();
      });
    }
  }

  private async conduct(run: LeasedRun): Promise<void> {
    try {
      if (!this.parts.leases.holds(run.id)) return;
      if (namesTouch(run.definition)) await this.lookUpTouches(run);
      await runThrough(run, await this.settingsCache.provisionsOf(run.businessId), this.parts);
    } catch (error) {
      // Nothing is lost: the lease runs out and the run is taken up again from what was written.
      log.error({ scope: 'runs', run: run.id, err: error }, 'interrupted');
    } finally {
      this.parts.leases.drop(run.id);
      this.bell.ring(run.businessId);
    }
  }

  private async lookUpTouches(run: LeasedRun): Promise<void> {
    const touches = (await touchesOf(this.parts.store.pool, [run.leadId])).get(run.leadId);
    if (touches) run.context = { ...run.context, touches };
  }

  private async takeDue(): Promise<void> {
    while (!this.stopping) {
      const room = AT_ONCE - this.going - this.waiting.length;
      this.full = room <= 0;
      if (this.full) return;
      const due = await this.parts.store.takeDue(this.parts.leases.holder, LEASE_SECONDS, Math.min(room, 100));
      for (const dueRun of due) await this.takeUp(dueRun);
      if (due.length === 0) return;
    }
  }

  private async takeUp(due: DueRun): Promise<void> {
    const { run } = due;
    const [version, source] = await Promise.all([
      this.settingsCache.version(run.version_id),
      this.settingsCache.sourceById(run.source_id),
    ]);
    if (!version || !source) {
      log.error({ scope: 'runs', run: run.id }, 'cannot go on: its version or source is gone');
      return;
    }
    this.begin(takenUp(due, version.definition, source, await this.settingsCache.provisionsOf(run.business_id)));
  }

  /** Stops taking on runs, finishes what is being sent for at most `graceMs`, and gives the rest back. */
  async stop(graceMs: number): Promise<void> {
    this.stopping = true;
    await this.loop.stop();
    const unstarted = this.waiting.splice(0).map((run) => run.id);
    await this.parts.leases.giveBack(unstarted).catch(() => {});
    const end = Date.now() + graceMs;
    while (this.going > 0 && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 20));
    await this.parts.leases.giveBack(this.parts.leases.held()).catch(() => {});
  }
}
