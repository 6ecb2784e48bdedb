import type { Answer } from '../core/delivery/answer.ts';
import { MESSAGE_RETRY, retryDelayMs } from '../core/delivery/backoff.ts';
import { LANES, type Lane, type Moment, type Place, type Step } from '../core/workflow/definition.ts';
import type { OutgoingMessage, Plan } from '../core/workflow/plan.ts';
import type { Attempt, StepState } from '../db/entities/run.ts';
import type { HotStore, Progress, StepRow } from '../db/hot/store.ts';
import { mayNotWrite } from '../steps/may-write.ts';
import { type Outside, performSend } from '../steps/performers.ts';
import { applyChange, planStep } from '../steps/plan-step.ts';
import { type BusinessDesk, deliveryId } from './directory.ts';
import { LanesAtWork } from './lanes-at-work.ts';
import type { LeasedRun, PendingDelivery, StepRecord } from './leased-run.ts';
import type { Leases } from './leases.ts';
import { type NeedSubject, needRow } from './need.ts';
import { runOutcome } from './outcome.ts';

export interface EngineParts {
  store: HotStore;
  leases: Leases;
  outside: Outside;
  now: () => number;
  random: () => number;
}

/** Stops a run's code in this process without a trace: the run belongs to somebody else now. */
class LeaseLost extends Error {}

const iso = (ms: number) => new Date(ms).toISOString();
const settled = (record: StepRecord | undefined) => record !== undefined && record.state !== 'again';

/**
 * Takes one run as far as it can go now: First in order, then the three lanes side by side, each from its first step that is
 * not settled. A lane whose step must wait lets the others go on; when all are settled or waiting the run is written off as
 * finished, or due again at the earliest wait.
 */
export async function runMoment(run: LeasedRun, { desk, accounts }: BusinessDesk, parts: EngineParts): Promise<void> {
  const { store, leases, now } = parts;
  const moment = run.definition.moments[0];
  if (!moment) return;
  const records = new Map(run.steps);
  let firstReplyAt = run.firstReplyAt;

  const row = (record: StepRecord): StepRow => ({
    ...record,
    run_id: run.id,
    business_id: run.businessId,
    finished_at: record.state === 'again' ? null : iso(now()),
  });
  const mine = () => {
    if (!leases.holds(run.id)) throw new LeaseLost();
  };

  // First: everything in it is planned and done here; its rows go out with the first message of the lanes.
  let context = run.context;
  const early: Progress = { steps: [], leads: [] };
  for (const step of moment.first) {
    const before = records.get(step.id);
    if (before && run.fromStep === null) {
      context = applyChange(context, before.plan).context;
      continue;
    }
    const plan = planStep(step, context, desk);
    const { context: after, changed } = applyChange(context, plan);
    context = after;
    const state: StepState = plan.does === 'change' ? 'done' : plan.does === 'ask' ? 'ask' : 'nothing';
    const record: StepRecord = {
      step_id: step.id,
      place: 'first',
      state,
      plan,
      attempts: [],
      started_at: iso(now()),
      next_try_at: null,
    };
    records.set(step.id, record);
    early.steps!.push(row(record));
    if (Object.keys(changed).length > 0) early.leads!.push({ id: run.leadId, ...changed });
  }

  const skip = stepsToSkip(moment, run.fromStep);
  const atWork = new LanesAtWork(LANES.length);

  const about = (step: Step): NeedSubject => {
    const { person, source } = context;
    const who =
      `${person.first_name} ${person.last_name}`.trim() || person.email || person.phone || 'Somebody without a name';
    return {
      runId: run.id,
      businessId: run.businessId,
      leadId: run.leadId,
      stepId: step.id,
      who,
      sourceName: source.name,
    };
  };

  async function settle(record: StepRecord, more: Progress = {}): Promise<void> {
    records.set(record.step_id, record);
    await store.write({ ...more, steps: [row(record)] });
  }

  /** One step of a lane, until it is settled. Gives the time of its next try when the lane has to be left waiting. */
  async function doStep(step: Step, place: Lane): Promise<number | null> {
    const before = records.get(step.id);
    const startedAt = before?.started_at ?? iso(now());
    const base = { step_id: step.id, place: place as Place, started_at: startedAt, next_try_at: null };
    if (skip.has(step.id)) {
      await settle({
        ...base,
        state: 'skipped',
        plan: { does: 'nothing', why: { code: 'switched_off', text: 'Not part of this repeat' } },
        attempts: [],
      });
      return null;
    }
    let pending = run.pending.get(step.id);
    if (pending?.message.audience === 'lead' && context.consent[pending.message.channel] === 'withdrawn') {
      // Planned while it was allowed, and not known to have gone out: they have asked for no more since, so it stays here.
      const why = mayNotWrite(context, pending.message.channel, false)!;
      await settle(
        { ...base, state: 'nothing', plan: { does: 'nothing', why }, attempts: before?.attempts ?? [] },
        { answers: [{ id: pending.id, state: 'refused', remote_id: null, detail: why.text, accepted_at: null }] },
      );
      return null;
    }
    let plan: Plan;
    if (pending) plan = { does: 'send', message: pending.message };
    else {
      plan = planStep(step, context, desk);
      if (plan.does !== 'send') {
        await settle(
          { ...base, state: plan.does === 'ask' ? 'ask' : 'nothing', plan, attempts: [] },
          plan.does === 'ask'
            ? {
                needs: [
                  needRow(
                    'step_asks',
                    about(step),
                    plan.why.channel ?? 'email',
                    place === 'team' ? 'team' : 'lead',
                    plan.why.text,
                    now(),
                  ),
                ],
              }
            : {},
        );
        return null;
      }
      pending = await writeDelivery(step, plan.message);
    }
    const attempts: Attempt[] = [...(before?.attempts ?? [])];
    let nextTry = before?.next_try_at ? Date.parse(before.next_try_at) : now();
    for (;;) {
      if (nextTry > now() && !(await atWork.wait(nextTry - now()))) return nextTry;
      mine();
      const began = now();
      const account = accounts.get(pending.connectionId);
      const answer: Answer = account
        ? await performSend(parts.outside, account, pending.message, pending.id)
        : {
            kind: 'refused',
            code: 'connection-gone',
            detail: 'The connection this message was to go out by has been removed',
          };
      attempts.push({
        at: iso(began),
        ms: now() - began,
        outcome: answer.kind,
        code: answer.code,
        detail: answer.detail,
      });
      const record = { ...base, plan, attempts: attempts.slice(-30) };
      if (answer.kind === 'accepted') {
        if (pending.message.audience === 'lead') firstReplyAt ??= iso(now());
        await settle(
          { ...record, state: 'done' },
          {
            answers: [
              {
                id: pending.id,
                state: 'accepted',
                remote_id: answer.remoteId,
                detail: answer.detail,
                accepted_at: iso(now()),
              },
            ],
          },
        );
        return null;
      }
      const firstTry = Date.parse(attempts[0]!.at);
      const delay =
        answer.kind === 'again' ? retryDelayMs(MESSAGE_RETRY, attempts.length - 1, answer.afterMs, parts.random()) : 0;
      if (answer.kind === 'refused' || now() + delay - firstTry > MESSAGE_RETRY.giveUpAfterMs) {
        const detail =
          answer.kind === 'refused' ? answer.detail : `Given up after ${attempts.length} tries: ${answer.detail}`;
        await settle(
          { ...record, state: 'refused' },
          {
            answers: [{ id: pending.id, state: 'refused', remote_id: null, detail, accepted_at: null }],
            needs: [
              needRow(
                answer.kind === 'refused' ? 'message_refused' : 'message_lost',
                about(step),
                pending.message.channel,
                pending.message.audience,
                detail,
                now(),
              ),
            ],
          },
        );
        return null;
      }
      nextTry = now() + delay;
      await settle({ ...record, state: 'again', next_try_at: iso(nextTry) });
    }
  }

  async function writeDelivery(step: Step, message: OutgoingMessage): Promise<PendingDelivery> {
    const connectionId = message.channel === 'text' ? desk.text!.connectionId : desk.email!.connectionId;
    const pending = { id: deliveryId(run.id, step.id), message, connectionId, createdAt: iso(now()) };
    const { steps, leads } = early;
    early.steps = [];
    early.leads = [];
    mine();
    await store.write({
      steps: steps!,
      leads: leads!,
      deliveries: [
        {
          id: pending.id,
          business_id: run.businessId,
          run_id: run.id,
          step_id: step.id,
          lead_id: run.leadId,
          channel: message.channel,
          audience: message.audience,
          recipient: message.to,
          connection_id: connectionId,
          message,
          created_at: pending.createdAt,
        },
      ],
    });
    return pending;
  }

  /** Runs a lane to its end, or to a wait. Gives the time of the wait. */
  async function runLane(lane: Lane): Promise<number | null> {
    let left = false;
    try {
      let stopped = false;
      for (const step of moment!.lanes[lane]) {
        if (!settled(records.get(step.id))) {
          if (stopped) await settle(notReached(step, lane, iso(now())));
          else {
            const nextTry = await doStep(step, lane);
            left = nextTry !== null;
            if (left) return nextTry;
          }
        }
        stopped ||= stopsLane(step, records.get(step.id)!);
      }
      return null;
    } finally {
      if (!left) atWork.finished();
    }
  }

  const results = await Promise.allSettled(LANES.map(runLane));
  const failed = results.find((result) => result.status === 'rejected');
  if (failed) {
    if (failed.reason instanceof LeaseLost) return;
    throw failed.reason;
  }
  const waits = results.flatMap((result) =>
    result.status === 'fulfilled' && result.value !== null ? [result.value] : [],
  );
  const due = waits.length > 0 ? Math.min(...waits) : null;
  const { state, outcome } = runOutcome([...records.values()]);
  await store.write({
    steps: early.steps!,
    leads: early.leads!,
    runs: [
      {
        id: run.id,
        lease_by: leases.holder,
        state: due === null ? state : 'active',
        outcome,
        finished_at: due === null ? iso(now()) : null,
        due_at: due === null ? null : iso(due),
        first_reply_at: firstReplyAt,
      },
    ],
  });
}

const notReached = (step: Step, place: Lane, at: string): StepRecord => ({
  step_id: step.id,
  place,
  state: 'skipped',
  plan: { does: 'nothing', why: { code: 'switched_off', text: 'The lane was stopped by the step before' } },
  attempts: [],
  started_at: at,
  next_try_at: null,
});

/** A step set to stop its lane when the outside world refuses it for good. */
function stopsLane(step: Step, record: StepRecord): boolean {
  return (record.state === 'refused' || record.state === 'ask') && step.settings.ifRefused === 'stop_lane';
}

/** When run again from a step: everything in the lanes but that step and what stands below it in its lane. */
function stepsToSkip(moment: Moment, fromStep: string | null): Set<string> {
  const skip = new Set<string>();
  if (fromStep === null) return skip;
  for (const lane of LANES) {
    const at = moment.lanes[lane].findIndex((step) => step.id === fromStep);
    for (const step of at < 0 ? moment.lanes[lane] : moment.lanes[lane].slice(0, at)) skip.add(step.id);
  }
  return skip;
}
