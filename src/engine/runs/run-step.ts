import { type Condition, testsOf } from '../../core/condition/condition.ts';
import { evaluate, factKey, factOf, type Verdict } from '../../core/condition/evaluate.ts';
import { comparedWords } from '../../core/condition/words.ts';
import { suits } from '../../core/people/working-time.ts';
import type { Lane, Moment, Place, Step } from '../../core/workflow/definition.ts';
import type { Plan, StopReason } from '../../core/workflow/plan.ts';
import { knownOf, type RunContext } from '../../core/workflow/run-context.ts';
import { catalogueNames } from '../../core/workflow/step-kind.ts';
import { stepFor, versionFor } from '../../core/workflow/trial.ts';
import { takeTurn } from '../../db/hot/take-turn.ts';
import { applyChange, conditionOf, planStep, turnOf } from '../../steps/plan-step.ts';
import { Courier } from '../delivery/courier.ts';
import { deliverStep } from '../delivery/deliver-step.ts';
import type { Provisions } from '../settings-cache.ts';
import type { EngineParts } from './engine-parts.ts';
import { type LanesAtWork, type LaneWait, rests } from './lanes-at-work.ts';
import type { LeasedRun, StepRecord } from './leased-run.ts';
import { needRow } from './need.ts';
import { WorkDoer } from './perform-step.ts';
import { iso, type RunNotes, recordOf, settled } from './run-notes.ts';

/** Whether a step of First ends the moment or the run: a check, a look-up that found nothing, a step that failed for good. */
function endedBy(step: Step, { plan, state, attempts }: StepRecord): { ends: 'moment' | 'run'; why: string } | null {
  if (plan.does === 'end') return { ends: plan.ends, why: plan.why.text };
  if ((plan.does === 'look' || plan.does === 'call') && plan.ends && attempts.at(-1)?.code === 'none')
    return { ends: plan.ends, why: `${plan.words}: nothing found` };
  if (state === 'refused' && step.ifFails.after === 'stop_lane')
    return { ends: 'moment', why: `A step failed: ${attempts.at(-1)?.detail ?? ''}` };
  return null;
}

/** First is left before its end: it ends the moment or the run, or a call in it waits for another try until then (milliseconds). */
export type FirstEnd = { ends: 'moment' | 'run'; why: string } | { until: number };

/** Does the steps of one moment of a run, one by one: what each one's turn it is, its guard, its plan, and then the plan. */
export class StepRunner {
  private readonly courier: Courier;
  private readonly work: WorkDoer;

  constructor(
    private readonly run: LeasedRun,
    private readonly provisions: Provisions,
    private readonly parts: EngineParts,
    private readonly notes: RunNotes,
  ) {
    this.courier = new Courier(notes, provisions, parts);
    this.work = new WorkDoer(notes, provisions.catalogue, parts);
  }

  private get context(): RunContext {
    return this.run.context;
  }

  /** Whether a condition holds, after asking the database what only it can answer. */
  async decide(condition: Condition): Promise<Verdict> {
    const { parts, run } = this;
    for (const test of testsOf(condition)) {
      const asked = factOf(test, knownOf(this.context, parts.now()).value(test.field) ?? '');
      if (!asked || this.context.facts[factKey(asked)] !== undefined) continue;
      const holds = await parts.fact(run.businessId, asked);
      run.context = { ...run.context, facts: { ...run.context.facts, [factKey(asked)]: holds } };
    }
    return evaluate(condition, knownOf(this.context, parts.now()));
  }

  /** What a step would do now: nothing when its guard keeps it from being done. */
  private async planned(step: Step): Promise<Plan> {
    const { run, parts, provisions } = this;
    if (step.on && step.onlyIf !== null) {
      const verdict = await this.decide(step.onlyIf);
      if (!verdict.holds) return { does: 'nothing', why: guardedBy(verdict, provisions) };
    }
    const asked = conditionOf(step);
    if (asked) await this.decide(asked);
    const among = step.on ? turnOf(step, this.context, provisions.catalogue, parts.now()) : null;
    if (among) {
      const now = parts.now();
      const suitsNow = (id: string) =>
        suits(
          provisions.catalogue.colleagues.find((colleague) => colleague.id === id)?.working,
          now,
          this.context.business.timeZone,
        );
      const who = await takeTurn(parts.store.pool, run.id, step.id, run.workflowId, run.businessId, among, suitsNow);
      if (who) run.context = { ...run.context, turns: { ...run.context.turns, [step.id]: who } };
    }
    const plan = planStep(step, this.context, provisions.catalogue, parts.now());
    if (!step.trial || plan.does !== 'send') return plan;
    const trial = { id: step.trial.id, version: versionFor(step.trial.id, run.leadId) };
    return { ...plan, message: { ...plan.message, trial } };
  }

  /** First: everything in it in order. Gives why the moment or the run ends here, if a check says so. */
  async first(moment: Moment): Promise<FirstEnd | null> {
    const { run, parts, notes } = this;
    for (const step of moment.first) {
      const before = run.steps.get(step.id);
      if (settled(before) && run.fromStep === null) {
        // Taken up again: it was applied to the context then.
        const ended = endedBy(step, before!);
        if (ended) return ended;
        continue;
      }
      const plan = await this.planned(step);
      const base = { step_id: step.id, place: 'first' as const, started_at: iso(parts.now()) };
      if (plan.does === 'look' || plan.does === 'record' || plan.does === 'call') {
        await notes.flush();
        const until = await this.work.inFirst(
          step,
          plan,
          { ...base, started_at: before?.started_at ?? base.started_at },
          before,
        );
        if (until !== null) return { until };
        const ended = endedBy(step, run.steps.get(step.id)!);
        if (ended) return ended;
        continue;
      }
      const { context, changed, answers } = applyChange(this.context, plan);
      run.context = context;
      const state = plan.does === 'change' || plan.does === 'pass' ? 'done' : plan.does === 'ask' ? 'ask' : 'nothing';
      const touched = Object.keys(changed).length + Object.keys(answers).length > 0;
      notes.later(
        recordOf(base, state, plan),
        touched
          ? {
              id: run.leadId,
              by: { kind: 'step', runId: run.id, stepId: step.id },
              ...changed,
              ...(Object.keys(answers).length ? { answers } : {}),
            }
          : null,
      );
      if (plan.does === 'end') return { ends: plan.ends, why: plan.why.text };
    }
    return null;
  }

  async leaveOut(step: Step, place: Place, code: StopReason['code'], text: string): Promise<void> {
    const base = { step_id: step.id, place, started_at: iso(this.parts.now()) };
    await this.notes.settle(recordOf(base, 'skipped', { does: 'nothing', why: { code, text } }));
  }

  /** One step of a lane, until it is settled, or what it has to be left waiting for. */
  async step(asPlaced: Step, place: Lane, atWork: LanesAtWork): Promise<LaneWait | null> {
    const { run, parts, notes, courier } = this;
    const step = stepFor(asPlaced, run.leadId);
    const before = run.steps.get(step.id);
    const base = { step_id: step.id, place, started_at: before?.started_at ?? iso(parts.now()) };
    const pending = courier.pendingOf(step);
    if (pending) {
      const plan: Plan = before?.instead ? before.plan : { does: 'send', message: pending.message };
      return deliverStep(courier, { step, plan, base, pending, before }, atWork);
    }
    const plan = await this.planned(step);
    switch (plan.does) {
      case 'record':
      case 'look':
      case 'call':
        await notes.flush();
        return this.work.untilSettled(step, plan, base, before, atWork);
      case 'send': {
        if (plan.draft) return courier.draft(step, plan, base);
        const until = courier.closed(plan.message) ?? later(plan.notBefore, parts.now());
        if (until === null)
          return deliverStep(courier, { step, plan, base, pending: await courier.putDown(step, plan), before }, atWork);
        // Not planned for good: what is right then is decided then.
        await notes.flush();
        await notes.settle({ ...recordOf(base, 'held', plan), next_try_at: iso(until) });
        const left = until - parts.now();
        if (rests(left) && !run.definition.rules.holdsLane) return { until, holds: false };
        return (await atWork.wait(left)) ? this.step(step, place, atWork) : { until, holds: true };
      }
      case 'ask': {
        const audience = place === 'team' ? 'team' : 'lead';
        await notes.settle(recordOf(base, 'ask', plan), {
          needs: [
            needRow('step_asks', notes.about(step), plan.why.channel ?? null, audience, plan.why.text, parts.now()),
          ],
        });
        return null;
      }
      default:
        await notes.settle(recordOf(base, plan.does === 'change' ? 'done' : 'nothing', plan));
        return null;
    }
  }
}

/** When a message that must not go before then may go; null when that is past. */
const later = (notBefore: number | undefined, now: number): number | null =>
  notBefore !== undefined && notBefore > now ? notBefore : null;

function guardedBy(verdict: Verdict, { catalogue }: Provisions): StopReason {
  const failed = verdict.compared.find((compared) => !compared.holds);
  const text = failed ? `Only when ${comparedWords(failed, catalogueNames(catalogue))}` : 'Its condition did not hold';
  return { code: 'guard', text };
}
