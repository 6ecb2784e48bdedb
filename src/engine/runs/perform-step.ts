import { retryDelayMs, retryFor } from '../../core/delivery/backoff.ts';
import type { Step } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import type { Db } from '../../db/db.ts';
import type { Attempt } from '../../db/entities/run.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { applyFields } from '../../steps/apply-fields.ts';
import { type ListJoining, recordWhat, sharedBy } from '../../steps/step-performer.ts';
import { deliveryId } from '../delivery/delivery-id.ts';
import { leaveList } from '../lists/leave.ts';
import { applyRecord } from './apply-record.ts';
import type { EngineParts } from './engine-parts.ts';
import { type LanesAtWork, type LaneWait, rests } from './lanes-at-work.ts';
import type { StepRecord } from './leased-run.ts';
import { needRow } from './need.ts';
import { iso, LeaseLost, type RunNotes, recordOf } from './run-notes.ts';
import { tellOf } from './tell-of.ts';

/** A plan to do something in our own database, to ask it, or to call somebody. */
export type WorkPlan = Extract<Plan, { what: unknown }>;
type Base = Pick<StepRecord, 'step_id' | 'place' | 'started_at'>;

/** Does what plans of one run say, on record and outside, beyond messages. */
export class WorkDoer {
  constructor(
    private readonly notes: RunNotes,
    private readonly catalogue: Catalogue,
    private readonly parts: EngineParts,
  ) {}

  /** Until the step is settled, or what it has to be left waiting for. */
  async untilSettled(
    step: Step,
    plan: WorkPlan,
    base: Base,
    before: StepRecord | undefined,
    atWork: LanesAtWork,
  ): Promise<LaneWait | null> {
    const { now } = this.parts;
    let nextTry = before?.next_try_at ? Date.parse(before.next_try_at) : now();
    let attempts = before?.attempts ?? [];
    for (;;) {
      if (nextTry > now() && !(await atWork.wait(nextTry - now()))) return { until: nextTry, holds: true };
      const again = await this.once(step, plan, base, attempts);
      if (again === null) return null;
      nextTry = again;
      attempts = this.notes.run.steps.get(step.id)!.attempts;
    }
  }

  /** A step of First, which everything else stands behind: until it is settled, or the time (milliseconds) of a try that is further off. */
  async inFirst(step: Step, plan: WorkPlan, base: Base, before: StepRecord | undefined): Promise<number | null> {
    const { now } = this.parts;
    let nextTry: number | null = before?.next_try_at ? Date.parse(before.next_try_at) : now();
    let attempts = before?.attempts ?? [];
    for (;;) {
      const left: number = nextTry - now();
      if (rests(left)) return nextTry;
      if (left > 0) await new Promise<void>((resolve) => this.parts.later(left, resolve));
      nextTry = await this.once(step, plan, base, attempts);
      if (nextTry === null) return null;
      attempts = this.notes.run.steps.get(step.id)!.attempts;
    }
  }

  /** Once. Gives the time of the next try, or null when the step is settled. */
  async once(step: Step, plan: WorkPlan, base: Base, earlier: Attempt[]): Promise<number | null> {
    const { notes, parts } = this;
    const { run } = notes;
    const performer = parts.performers.get(step.kind);
    notes.stillMine();
    const began = parts.now();
    const about = {
      businessId: run.businessId,
      leadId: run.leadId,
      runId: run.id,
      workflowId: run.workflowId,
      stepId: step.id,
      key: deliveryId(run.id, step.id),
      now: began,
      context: run.context,
      tell: tellOf,
      leave: (client: Db, listId: string) => leaveList(client, run.leadId, listId, new Date(began)),
      join: (client: Db, joining: ListJoining) =>
        parts.membership.join(client, {
          ...joining,
          businessId: run.businessId,
          leadId: run.leadId,
          runId: run.id,
          now: began,
        }),
    };
    const attempt = (outcome: Attempt['outcome'], code: string, detail: string): Attempt => ({
      at: iso(began),
      ms: parts.now() - began,
      outcome,
      code,
      detail,
    });
    if (plan.does === 'record') {
      const done = recordOf(base, 'done', plan, [...earlier, attempt('done', 'recorded', '')]);
      try {
        const came = await parts.store.settle({
          row: notes.row(done),
          holder: parts.leases.holder,
          shared: sharedBy(performer!, plan.what),
          work: async (client) => {
            if (performer!.changesPeople) await changedBy(client, { kind: 'step', runId: run.id, stepId: step.id });
            return recordWhat(performer!, client, plan.what, about);
          },
        });
        if (came === null) throw new LeaseLost();
        const whole = { ...done, results: came.results };
        run.steps.set(step.id, whole);
        run.context = applyRecord(applyFields(run.context, plan.sets ?? [], this.catalogue), whole, this.catalogue);
        return null;
      } catch (error) {
        // A database that is away is none of the step's doing: the run is taken up again from what was written.
        if (!(error instanceof RefusedWork)) throw error;
        return this.failed(
          step,
          recordOf(base, 'refused', plan, [...earlier, attempt('refused', 'record', error.message)]),
        );
      }
    }
    if (plan.does === 'look') {
      const came = await performer!.look!(parts.store.pool, plan.what, about);
      const done = recordOf(base, 'done', plan, [
        ...earlier,
        attempt('done', came.found ? 'found' : 'none', came.detail),
      ]);
      run.context = applyFields(run.context, came.results, this.catalogue);
      await notes.settle({ ...done, results: came.results });
      return null;
    }
    const answer = await performer!.call!(parts.outside, plan.what, about);
    const attempts = [...earlier, attempt(answer.kind, answer.code, answer.detail)];
    if (answer.kind === 'accepted') {
      const results = answer.results ?? [];
      run.context = applyFields(run.context, results, this.catalogue);
      await notes.settle({ ...recordOf(base, 'done', plan, attempts), results });
      return null;
    }
    const rule = retryFor(step.ifFails.tryForMinutes);
    const delay = answer.kind === 'again' ? retryDelayMs(rule, attempts.length - 1, answer.afterMs, parts.random()) : 0;
    const nextTry = parts.now() + delay;
    if (answer.kind === 'again' && nextTry - Date.parse(attempts[0]!.at) <= rule.giveUpAfterMs) {
      await notes.settle({ ...recordOf(base, 'again', plan, attempts), next_try_at: iso(nextTry) });
      return nextTry;
    }
    return this.failed(step, recordOf(base, 'refused', plan, attempts));
  }

  private async failed(step: Step, record: StepRecord): Promise<null> {
    const detail = record.attempts.at(-1)?.detail ?? '';
    await this.notes.settle(record, {
      needs: [needRow('step_failed', this.notes.about(step), null, 'lead', detail, this.parts.now())],
    });
    return null;
  }
}
