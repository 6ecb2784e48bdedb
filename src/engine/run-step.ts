import { type Condition, testsOf } from '../core/condition/condition.ts';
import { evaluate, type FactAsked, factKey, factOf, type Verdict } from '../core/condition/evaluate.ts';
import { comparedWords } from '../core/condition/words.ts';
import type { Answer } from '../core/delivery/answer.ts';
import { retryDelayMs, retryFor } from '../core/delivery/backoff.ts';
import { phoneZone } from '../core/time/phone-zone.ts';
import { heldUntil } from '../core/time/quiet-hours.ts';
import type { Lane, Moment, Place, Step } from '../core/workflow/definition.ts';
import type { OutgoingMessage, Plan, StopReason } from '../core/workflow/plan.ts';
import { RefusedWork } from '../core/workflow/refused-work.ts';
import { knownOf, type RunContext } from '../core/workflow/run-context.ts';
import { deskNames } from '../core/workflow/step-kind.ts';
import type { Attempt, StepState } from '../db/entities/run.ts';
import type { HotStore, Progress, StepRow } from '../db/hot/store.ts';
import { applyFields } from '../steps/apply-fields.ts';
import { mayNotWrite } from '../steps/may-write.ts';
import { type Outside, performSend } from '../steps/performers.ts';
import { applyChange, conditionOf, planInstead, planStep } from '../steps/plan-step.ts';
import type { StepPerformer } from '../steps/step-performer.ts';
import { applyRecord } from './apply-record.ts';
import { type BusinessDesk, deliveryId } from './directory.ts';
import type { LanesAtWork } from './lanes-at-work.ts';
import { deliveryName, type LeasedRun, type PendingDelivery, type StepRecord } from './leased-run.ts';
import type { Leases } from './leases.ts';
import { type NeedSubject, needRow } from './need.ts';

export interface EngineParts {
  store: HotStore;
  leases: Leases;
  outside: Outside;
  /** What each kind of step does in our own database or outside, beyond messages. */
  performers: ReadonlyMap<string, StepPerformer>;
  /** Answers what only the database or a list knows. */
  fact: (businessId: string, asked: FactAsked) => Promise<boolean>;
  now: () => number;
  random: () => number;
}

/** Stops a run's code in this process without a trace: the run belongs to somebody else now. */
export class LeaseLost extends Error {}

const iso = (ms: number) => new Date(ms).toISOString();
export const settled = (record: StepRecord | undefined) =>
  record !== undefined && record.state !== 'again' && record.state !== 'held';

/** Whether a step of First ends the moment or the run: a check, a look-up that found nothing, a step that failed for good. */
function endedBy(step: Step, { plan, state, attempts }: StepRecord): { ends: 'moment' | 'run'; why: string } | null {
  if (plan.does === 'end') return { ends: plan.ends, why: plan.why.text };
  if ((plan.does === 'look' || plan.does === 'call') && plan.ends && attempts.at(-1)?.code === 'none')
    return { ends: plan.ends, why: `${plan.words}: nothing found` };
  if (state === 'refused' && step.ifFails.after === 'stop_lane')
    return { ends: 'moment', why: `A step failed: ${attempts.at(-1)?.detail ?? ''}` };
  return null;
}

/** Does the steps of one moment of a run, one by one, and notes what came of each. */
export class StepRunner {
  /** Rows that go out with the next write: what First did, and how the moment began. */
  readonly early: Progress = { steps: [], leads: [], moments: [] };

  constructor(
    private readonly run: LeasedRun,
    private readonly desk: BusinessDesk,
    private readonly parts: EngineParts,
  ) {}

  private get context(): RunContext {
    return this.run.context;
  }

  private row(record: StepRecord): StepRow {
    return {
      ...record,
      run_id: this.run.id,
      business_id: this.run.businessId,
      finished_at: settled(record) ? iso(this.parts.now()) : null,
    };
  }

  private mine(): void {
    if (!this.parts.leases.holds(this.run.id)) throw new LeaseLost();
  }

  /** Writes what has gathered, if anything has. */
  async flush(): Promise<void> {
    const { steps, leads, moments } = this.early;
    if (steps!.length + leads!.length + moments!.length === 0) return;
    await this.parts.store.write(this.takeEarly());
  }

  private takeEarly(): Progress {
    const taken = { ...this.early };
    Object.assign(this.early, { steps: [], leads: [], moments: [] });
    return taken;
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

  /** Why a guard keeps a step from being done; null when it may be done. */
  private async guard(step: Step): Promise<StopReason | null> {
    if (!step.on || step.onlyIf === null) return null;
    const verdict = await this.decide(step.onlyIf);
    if (verdict.holds) return null;
    const failed = verdict.compared.find((one) => !one.holds);
    const names = deskNames(this.desk.desk);
    return { code: 'guard', text: failed ? `Only when ${comparedWords(failed, names)}` : 'Its condition did not hold' };
  }

  /** First: everything in it in order. Gives why the moment or the run ends here, if a check says so. */
  async first(moment: Moment): Promise<{ ends: 'moment' | 'run'; why: string } | null> {
    const { run, parts, desk } = this;
    for (const step of moment.first) {
      const before = run.steps.get(step.id);
      if (settled(before) && run.fromStep === null) {
        // Taken up again: it was applied to the context then.
        const ended = endedBy(step, before!);
        if (ended) return ended;
        continue;
      }
      const stopped = await this.guard(step);
      const asked = conditionOf(step);
      if (asked) await this.decide(asked);
      const plan: Plan = stopped
        ? { does: 'nothing', why: stopped }
        : planStep(step, this.context, desk.desk, parts.now());
      const started = iso(parts.now());
      const base = { step_id: step.id, place: 'first' as const, started_at: started };
      if (plan.does === 'look' || plan.does === 'record' || plan.does === 'call') {
        await this.flush();
        await this.perform(step, plan, base, []);
        const ended = endedBy(step, run.steps.get(step.id)!);
        if (ended) return ended;
        continue;
      }
      const { context, changed, answers } = applyChange(this.context, plan);
      run.context = context;
      const state: StepState =
        plan.does === 'change' || plan.does === 'pass' ? 'done' : plan.does === 'ask' ? 'ask' : 'nothing';
      const record: StepRecord = {
        ...base,
        state,
        plan,
        attempts: [],
        next_try_at: null,
        instead: null,
        results: null,
      };
      run.steps.set(step.id, record);
      this.early.steps!.push(this.row(record));
      if (Object.keys(changed).length + Object.keys(answers).length > 0)
        this.early.leads!.push({ id: run.leadId, ...changed, ...(Object.keys(answers).length ? { answers } : {}) });
      if (plan.does === 'end') return { ends: plan.ends, why: plan.why.text };
    }
    return null;
  }

  async leaveOut(step: Step, place: Place, code: StopReason['code'], text: string): Promise<void> {
    await this.settle({
      step_id: step.id,
      place,
      state: 'skipped',
      plan: { does: 'nothing', why: { code, text } },
      attempts: [],
      started_at: iso(this.parts.now()),
      next_try_at: null,
      instead: null,
      results: null,
    });
  }

  private async settle(record: StepRecord, more: Progress = {}): Promise<void> {
    this.run.steps.set(record.step_id, record);
    await this.parts.store.write({ ...more, steps: [this.row(record)] });
  }

  private about(step: Step): NeedSubject {
    const { person, source } = this.context;
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

  /** One step of a lane, until it is settled. Gives the time (milliseconds) it has to be left waiting for, or null. */
  async step(step: Step, place: Lane, atWork: LanesAtWork): Promise<number | null> {
    const { run, parts, desk } = this;
    const before = run.steps.get(step.id);
    const started_at = before?.started_at ?? iso(parts.now());
    const base = {
      step_id: step.id,
      place: place as Place,
      started_at,
      next_try_at: null,
      instead: null,
      results: null,
    };
    const item = before?.instead ? 1 : 0;
    let pending = run.pending.get(deliveryName(step.id, item));
    let plan: Plan;
    if (pending) plan = { does: 'send', message: pending.message };
    else {
      const stopped = await this.guard(step);
      plan = stopped ? { does: 'nothing', why: stopped } : planStep(step, this.context, desk.desk, parts.now());
      if (plan.does === 'record' || plan.does === 'look' || plan.does === 'call') {
        await this.flush();
        return this.performUntilSettled(step, plan, base, before?.attempts ?? [], before?.next_try_at ?? null, atWork);
      }
      if (plan.does !== 'send') {
        await this.settle(
          {
            ...base,
            state: plan.does === 'ask' ? 'ask' : plan.does === 'change' ? 'done' : 'nothing',
            plan,
            attempts: [],
          },
          plan.does === 'ask'
            ? {
                needs: [
                  needRow(
                    'step_asks',
                    this.about(step),
                    plan.why.channel ?? null,
                    place === 'team' ? 'team' : 'lead',
                    plan.why.text,
                    parts.now(),
                  ),
                ],
              }
            : {},
        );
        return null;
      }
      const until = this.closed(plan.message);
      if (until !== null) {
        // Not planned for good: what is right then is decided then.
        await this.flush();
        await this.settle({ ...base, state: 'held', plan, attempts: [], next_try_at: iso(until) });
        if (!(await atWork.wait(until - parts.now()))) return until;
        return this.step(step, place, atWork);
      }
      const made = this.delivery(step, plan.message, 0);
      this.mine();
      await parts.store.write({ ...this.takeEarly(), deliveries: [made.row] });
      pending = made.pending;
    }
    const original = before?.instead ? before.plan : plan;
    return this.deliver(step, { ...base, plan: original }, pending, item, before, atWork);
  }

  /** When messages of this kind may go out again; null when they may now. Colleagues may always be written to. */
  private closed(message: OutgoingMessage): number | null {
    if (message.audience !== 'lead') return null;
    const hours = this.run.definition.rules.hours[message.channel];
    if (!hours) return null;
    const zone = phoneZone(this.context.person.phone) ?? this.context.business.timeZone;
    return heldUntil(this.parts.now(), hours, zone);
  }

  /** Hands one message over until it is taken or refused for good; then what was to be sent instead. */
  private async deliver(
    step: Step,
    base: Omit<StepRecord, 'state' | 'attempts'>,
    first: PendingDelivery,
    firstItem: number,
    before: StepRecord | undefined,
    atWork: LanesAtWork,
  ): Promise<number | null> {
    const { run, parts, desk } = this;
    const attempts: Attempt[] = [...(before?.attempts ?? [])];
    let pending = first;
    let item = firstItem;
    let instead: Plan | null = before?.instead ?? null;
    let nextTry = before?.next_try_at ? Date.parse(before.next_try_at) : parts.now();
    // Tries of what is sent instead count from their own beginning.
    let since = item === 0 ? 0 : Math.max(0, attempts.findLastIndex((one) => one.outcome === 'refused') + 1);
    for (;;) {
      if (nextTry > parts.now() && !(await atWork.wait(nextTry - parts.now()))) return nextTry;
      if (pending.message.audience === 'lead' && this.context.consent[pending.message.channel] === 'withdrawn') {
        // Planned while it was allowed, and not known to have gone out: they have asked for no more since, so it stays here.
        const why = mayNotWrite(this.context, pending.message.channel, false)!;
        await this.settle(
          { ...base, state: 'nothing', plan: { does: 'nothing', why }, attempts, instead: null },
          { answers: [{ id: pending.id, state: 'refused', remote_id: null, detail: why.text, accepted_at: null }] },
        );
        return null;
      }
      const until = attempts.length > since ? this.closed(pending.message) : null;
      if (until !== null) {
        await this.settle({ ...base, state: 'again', attempts, instead, next_try_at: iso(until) });
        nextTry = until;
        continue;
      }
      this.mine();
      const began = parts.now();
      const account = desk.accounts.get(pending.connectionId);
      const answer: Answer = account
        ? await performSend(parts.outside, account, pending.message, pending.id)
        : {
            kind: 'refused',
            code: 'connection-gone',
            detail: 'The connection this message was to go out by has been removed',
          };
      attempts.push({
        at: iso(began),
        ms: parts.now() - began,
        outcome: answer.kind,
        code: answer.code,
        detail: answer.detail,
      });
      const record = { ...base, attempts: attempts.slice(-30), instead };
      if (answer.kind === 'accepted') {
        if (pending.message.audience === 'lead') run.firstReplyAt ??= iso(parts.now());
        await this.settle(
          { ...record, state: 'done' },
          {
            answers: [
              {
                id: pending.id,
                state: 'accepted',
                remote_id: answer.remoteId,
                detail: answer.detail,
                accepted_at: iso(parts.now()),
              },
            ],
          },
        );
        return null;
      }
      const rule = retryFor(step.ifFails.tryForMinutes);
      const tries = attempts.length - since;
      const firstTry = Date.parse(attempts[Math.min(since, attempts.length - 1)]!.at);
      const delay = answer.kind === 'again' ? retryDelayMs(rule, tries - 1, answer.afterMs, parts.random()) : 0;
      if (answer.kind === 'refused' || parts.now() + delay - firstTry > rule.giveUpAfterMs) {
        const detail = answer.kind === 'refused' ? answer.detail : `Given up after ${tries} tries: ${answer.detail}`;
        const refused = { id: pending.id, state: 'refused' as const, remote_id: null, detail, accepted_at: null };
        const other =
          item === 0 && step.ifFails.after === 'other_channel'
            ? planInstead(step, this.context, desk.desk, parts.now())
            : null;
        if (other?.does === 'send') {
          attempts.at(-1)!.outcome = 'refused';
          instead = other;
          item = 1;
          since = attempts.length;
          const held = this.closed(other.message);
          nextTry = held ?? parts.now();
          // In one write: taken up again, the run goes on with the other message and never back to the first.
          const made = this.delivery(step, other.message, 1);
          await this.settle(
            { ...record, attempts: attempts.slice(-30), instead, state: 'again', next_try_at: iso(nextTry) },
            { answers: [refused], deliveries: [made.row] },
          );
          pending = made.pending;
          continue;
        }
        await this.settle(
          { ...record, state: 'refused' },
          {
            answers: [refused],
            needs: [
              needRow(
                answer.kind === 'refused' ? 'message_refused' : 'message_lost',
                this.about(step),
                pending.message.channel,
                pending.message.audience,
                detail,
                parts.now(),
              ),
            ],
          },
        );
        return null;
      }
      nextTry = parts.now() + delay;
      await this.settle({ ...record, state: 'again', next_try_at: iso(nextTry) });
    }
  }

  private delivery(step: Step, message: OutgoingMessage, item: number) {
    const { run, parts, desk } = this;
    const connectionId = message.channel === 'text' ? desk.desk.text!.connectionId : desk.desk.email!.connectionId;
    const createdAt = iso(parts.now());
    const pending: PendingDelivery = { id: deliveryId(run.id, step.id, item), message, connectionId, createdAt };
    const row = {
      id: pending.id,
      business_id: run.businessId,
      run_id: run.id,
      step_id: step.id,
      item,
      lead_id: run.leadId,
      channel: message.channel,
      audience: message.audience,
      recipient: message.to,
      connection_id: connectionId,
      message,
      created_at: createdAt,
    };
    return { pending, row };
  }

  private async performUntilSettled(
    step: Step,
    plan: Extract<Plan, { what: unknown }>,
    base: Omit<StepRecord, 'state' | 'attempts' | 'plan'>,
    earlier: Attempt[],
    next: string | null,
    atWork: LanesAtWork,
  ): Promise<number | null> {
    let nextTry = next ? Date.parse(next) : this.parts.now();
    let attempts = earlier;
    for (;;) {
      if (nextTry > this.parts.now() && !(await atWork.wait(nextTry - this.parts.now()))) return nextTry;
      const again = await this.perform(step, plan, base, attempts);
      if (again === null) return null;
      nextTry = again;
      attempts = this.run.steps.get(step.id)!.attempts;
    }
  }

  /** Does what a plan says, once. Gives the time of the next try, or null when the step is settled. */
  private async perform(
    step: Step,
    plan: Extract<Plan, { what: unknown }>,
    base: Pick<StepRecord, 'step_id' | 'place' | 'started_at'>,
    earlier: Attempt[],
  ): Promise<number | null> {
    const { run, parts, desk } = this;
    const performer = parts.performers.get(step.kind);
    this.mine();
    const began = parts.now();
    const about = {
      businessId: run.businessId,
      leadId: run.leadId,
      runId: run.id,
      workflowId: run.workflowId,
      stepId: step.id,
      key: deliveryId(run.id, step.id),
      now: began,
      context: this.context,
    };
    const attempt = (outcome: Attempt['outcome'], code: string, detail: string): Attempt => ({
      at: iso(began),
      ms: parts.now() - began,
      outcome,
      code,
      detail,
    });
    const record = (state: StepState, attempts: Attempt[]): StepRecord => ({
      ...base,
      state,
      plan,
      attempts: attempts.slice(-30),
      next_try_at: null,
      instead: null,
      results: null,
    });
    if (plan.does === 'record') {
      const done = record('done', [...earlier, attempt('done', 'recorded', '')]);
      try {
        const came = await parts.store.settleWith(this.row(done), parts.leases.holder, (client) =>
          performer!.record!(client, plan.what, about),
        );
        if (came === null) throw new LeaseLost();
        const whole = { ...done, results: came.results };
        run.steps.set(step.id, whole);
        run.context = applyRecord(applyFields(this.context, plan.sets ?? [], desk.desk), whole, desk.desk);
        return null;
      } catch (error) {
        // A database that is away is none of the step's doing: the run is taken up again from what was written.
        if (!(error instanceof RefusedWork)) throw error;
        await this.failed(step, record('refused', [...earlier, attempt('refused', 'record', error.message)]));
        return null;
      }
    }
    if (plan.does === 'look') {
      const came = await performer!.look!(parts.store.pool, plan.what, about);
      const done = {
        ...record('done', [...earlier, attempt('done', came.found ? 'found' : 'none', came.detail)]),
        results: came.results,
      };
      run.context = applyFields(this.context, came.results, desk.desk);
      await this.settle(done);
      return null;
    }
    const answer = await performer!.call!(parts.outside, plan.what, about);
    if (answer.kind === 'accepted') {
      const results = answer.results ?? [];
      const done = { ...record('done', [...earlier, attempt('accepted', answer.code, answer.detail)]), results };
      run.context = applyFields(this.context, results, desk.desk);
      await this.settle(done);
      return null;
    }
    const attempts = [...earlier, attempt(answer.kind, answer.code, answer.detail)];
    const rule = retryFor(step.ifFails.tryForMinutes);
    const delay = answer.kind === 'again' ? retryDelayMs(rule, attempts.length - 1, answer.afterMs, parts.random()) : 0;
    if (
      answer.kind === 'again' &&
      base.place !== 'first' &&
      parts.now() + delay - Date.parse(attempts[0]!.at) <= rule.giveUpAfterMs
    ) {
      const nextTry = parts.now() + delay;
      await this.settle({ ...record('again', attempts), next_try_at: iso(nextTry) });
      return nextTry;
    }
    await this.failed(step, record('refused', attempts));
    return null;
  }

  private async failed(step: Step, record: StepRecord): Promise<void> {
    const detail = record.attempts.at(-1)?.detail ?? '';
    await this.settle(record, {
      needs: [needRow('step_failed', this.about(step), null, 'lead', detail, this.parts.now())],
    });
  }
}
