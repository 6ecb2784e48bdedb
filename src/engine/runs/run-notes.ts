import type { Step } from '../../core/workflow/definition.ts';
import type { StepState } from '../../db/entities/run.ts';
import type { Progress, StepRow } from '../../db/hot/rows.ts';
import type { HotStore } from '../../db/hot/store.ts';
import type { Leases } from '../leases.ts';
import type { LeasedRun, StepRecord } from './leased-run.ts';
import type { NeedSubject } from './need.ts';

/** Stops a run's code in this process without a trace: the run belongs to somebody else now. */
export class LeaseLost extends Error {}

export const iso = (ms: number) => new Date(ms).toISOString();

/** Whether a step needs no more doing. */
export const settled = (record: StepRecord | undefined) =>
  record !== undefined && record.state !== 'again' && record.state !== 'held';

/** A step's record before anything is known of it but where it stands. */
export const recordOf = (
  base: Pick<StepRecord, 'step_id' | 'place' | 'started_at'>,
  state: StepState,
  plan: StepRecord['plan'],
  attempts: StepRecord['attempts'] = [],
): StepRecord => ({
  step_id: base.step_id,
  place: base.place,
  started_at: base.started_at,
  state,
  plan,
  // The last ones tell enough of a gateway that was away for days.
  attempts: attempts.slice(-30),
  next_try_at: null,
  instead: null,
  results: null,
});

/** Writes down what a run does: its own memory and the database's say the same after every write. */
export class RunNotes {
  /** Rows that go out with the next write: what First did, and how the moment began. */
  private early: Progress & Required<Pick<Progress, 'steps' | 'leads' | 'moments'>> = NOTHING();

  constructor(
    readonly run: LeasedRun,
    private readonly store: HotStore,
    private readonly leases: Leases,
    private readonly now: () => number,
  ) {}

  /** Nothing may leave, and nothing be recorded, by a process that has lost the run. */
  stillMine(): void {
    if (!this.leases.holds(this.run.id)) throw new LeaseLost();
  }

  row(record: StepRecord): StepRow {
    return {
      ...record,
      run_id: this.run.id,
      business_id: this.run.businessId,
      finished_at: settled(record) ? iso(this.now()) : null,
    };
  }

  /** Kept until the next write. */
  later(record: StepRecord, lead: NonNullable<Progress['leads']>[number] | null): void {
    this.run.steps.set(record.step_id, record);
    this.early.steps.push(this.row(record));
    if (lead) this.early.leads.push(lead);
  }

  began(moment: NonNullable<Progress['moments']>[number]): void {
    this.early.moments.push(moment);
  }

  /** Writes what has gathered, if anything has, with what is given. */
  async flush(more: Progress = {}): Promise<void> {
    const { steps, leads, moments } = this.early;
    if (steps.length + leads.length + moments.length === 0 && Object.keys(more).length === 0) return;
    const gathered = this.early;
    this.early = NOTHING();
    await this.store.write({ ...gathered, ...more });
  }

  async settle(record: StepRecord, more: Progress = {}): Promise<void> {
    this.run.steps.set(record.step_id, record);
    await this.store.write({ ...more, steps: [this.row(record)] });
  }

  /** Whom an entry on the pile of things for a person is about. */
  about(step: Step): NeedSubject {
    const { person, source } = this.run.context;
    const who =
      `${person.first_name} ${person.last_name}`.trim() || person.email || person.phone || 'Somebody without a name';
    return {
      runId: this.run.id,
      businessId: this.run.businessId,
      leadId: this.run.leadId,
      stepId: step.id,
      who,
      sourceName: source.name,
    };
  }
}

const NOTHING = () => ({ steps: [], leads: [], moments: [] });
