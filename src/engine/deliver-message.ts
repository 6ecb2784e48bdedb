import type { Answer } from '../core/delivery/answer.ts';
import { retryDelayMs, retryFor } from '../core/delivery/backoff.ts';
import { answeredAtOnce } from '../core/time/answered-at-once.ts';
import { heldFor } from '../core/time/quiet-hours.ts';
import { nextMorning } from '../core/time/zone.ts';
import type { Step } from '../core/workflow/definition.ts';
import type { OutgoingMessage, Plan, StopReason } from '../core/workflow/plan.ts';
import { NEWS_AT } from '../core/workflow/purpose.ts';
import { allConsents } from '../core/workflow/run-context.ts';
import type { Attempt } from '../db/entities/run.ts';
import type { Progress } from '../db/hot/rows.ts';
import { mayNotWrite } from '../steps/may-write.ts';
import { performSend } from '../steps/performers.ts';
import { windowOpen } from '../steps/plan-chat.ts';
import { planInstead } from '../steps/plan-step.ts';
import { type BusinessDesk, deliveryId } from './directory.ts';
import type { EngineParts } from './engine-parts.ts';
import { type LanesAtWork, type LaneWait, rests } from './lanes-at-work.ts';
import { deliveryName, type PendingDelivery, type StepRecord } from './leased-run.ts';
import { connectionFor, makeDelivery } from './make-delivery.ts';
import { needRow } from './need.ts';
import { iso, type RunNotes, recordOf } from './run-notes.ts';
import { HELD_BY_CEILING, LOOK_AGAIN_MS } from './text-allowance.ts';

type SendPlan = Extract<Plan, { does: 'send' }>;
type Base = Pick<StepRecord, 'step_id' | 'place' | 'started_at'>;

/** Hands the messages of one run over: under a key written before, until each is taken or refused for good. */
export class Courier {
  constructor(
    private readonly notes: RunNotes,
    private readonly desk: BusinessDesk,
    private readonly parts: EngineParts,
  ) {}

  /** The message of a step that was planned before and is not known to be settled. */
  pendingOf(step: Step): PendingDelivery | null {
    const item = this.notes.run.steps.get(step.id)?.instead ? 1 : 0;
    return this.notes.run.pending.get(deliveryName(step.id, item)) ?? null;
  }

  /** When messages of this kind may go out again; null when they may now. Colleagues may always be written to. */
  closed(message: OutgoingMessage): number | null {
    if (message.audience !== 'lead') return null;
    const { definition, context, momentId, cameAt, listId } = this.notes.run;
    const { rules, moments } = definition;
    const hours = rules.hours[message.channel];
    if (!hours) return null;
    const now = this.parts.now();
    const atOnce = answeredAtOnce({
      rules,
      onArrival: momentId === null || momentId === moments[0]?.id,
      marketing: message.purpose === 'marketing' || listId !== null,
      cameAt: cameAt === null ? null : Date.parse(cameAt),
      now,
    });
    return atOnce ? null : heldFor(now, hours, context.person.phone, context.business.timeZone);
  }

  /** Writes a message down before it leaves. */
  async putDown(step: Step, plan: SendPlan): Promise<PendingDelivery> {
    this.notes.stillMine();
    const made = this.make(step, plan, 0);
    await this.notes.flush(made.rows);
    return made.pending;
  }

  /** Puts a message up for a person to read and send. */
  async draft(step: Step, plan: SendPlan, base: Base): Promise<null> {
    this.notes.stillMine();
    await this.notes.flush();
    const { rows, pending } = this.make(step, plan, 0, 'draft');
    const detail = 'Waits to be read and sent';
    const about = this.notes.about(step);
    await this.notes.settle(
      recordOf(base, 'done', plan, [{ at: iso(this.parts.now()), ms: 0, outcome: 'done', code: 'draft', detail }]),
      {
        ...rows,
        needs: [
          needRow('draft_waits', about, pending.message.channel, pending.message.audience, detail, this.parts.now()),
        ],
      },
    );
    return null;
  }

  private make(step: Step, plan: SendPlan, item: number, state: 'sending' | 'draft' = 'sending') {
    const { run } = this.notes;
    const about = {
      id: deliveryId(run.id, step.id, item),
      businessId: run.businessId,
      runId: run.id,
      stepId: step.id,
      item,
      leadId: run.leadId,
      listId: run.listId,
    };
    const { desk } = this.desk;
    // Its plan was made by this very desk: there is a connection.
    const connection = connectionFor(desk, plan.message.channel)!;
    return makeDelivery(about, plan.message, connection, desk.counting, this.parts, this.parts.now(), {
      state,
      question: plan.question,
    });
  }

  /** Hands one message over until it is taken or refused for good; then what was to be sent instead. */
  async deliver(
    step: Step,
    plan: Plan,
    base: Base,
    first: PendingDelivery,
    before: StepRecord | undefined,
    atWork: LanesAtWork,
  ): Promise<LaneWait | null> {
    const { notes, parts } = this;
    const { run } = notes;
    const attempts: Attempt[] = [...(before?.attempts ?? [])];
    let pending = first;
    let instead: Plan | null = before?.instead ?? null;
    let nextTry = before?.next_try_at ? Date.parse(before.next_try_at) : parts.now();
    // Tries of what is sent instead count from their own beginning.
    let since = instead ? Math.max(0, attempts.findLastIndex((one) => one.outcome === 'refused') + 1) : 0;
    const record = (state: StepRecord['state'], more: Partial<StepRecord> = {}): StepRecord => ({
      ...recordOf(base, state, plan, attempts),
      instead,
      ...more,
    });
    // Held, and not waiting for another try.
    let held = before?.state === 'held';
    // What was held goes by the hours as they are when it may go.
    let wasHeld = held;
    for (;;) {
      if (nextTry > parts.now()) {
        // What waits for its hours or for tomorrow lets those below it go on; what is tried again keeps their order.
        if (held && rests(nextTry - parts.now()) && !run.definition.rules.holdsLane)
          return { until: nextTry, holds: false };
        if (!(await atWork.wait(nextTry - parts.now()))) return { until: nextTry, holds: true };
      }
      wasHeld ||= held;
      held = false;
      const { channel, audience } = pending.message;
      // Tried before, or planned a while ago: what held then may hold no more.
      const waited = attempts.length > 0 || parts.now() - Date.parse(pending.createdAt) > FRESH_MS;
      if (audience === 'lead' && waited) await this.askAnew();
      const why = audience === 'lead' ? this.noMore(pending.message) : null;
      if (why) {
        // Planned while it was allowed, and not known to have gone out: they have asked for no more since, so it stays here.
        await notes.settle(record('nothing', { plan: { does: 'nothing', why }, instead: null }), {
          answers: [refusedRow(pending, why.text)],
        });
        return null;
      }
      const until = attempts.length > since || wasHeld ? this.closed(pending.message) : null;
      if (until !== null) {
        await notes.settle(record('held', { next_try_at: iso(until) }));
        nextTry = until;
        held = true;
        continue;
      }
      if (!(await this.hasSlot(pending))) {
        nextTry = nextMorning(parts.now(), NEWS_AT, run.context.business.timeZone);
        const note = 'Held until tomorrow: they have had as many news and offers as one person gets in a day';
        const noted = plan.does === 'send' ? { plan: { ...plan, note } } : {};
        await notes.settle(record('held', { next_try_at: iso(nextTry), ...noted }));
        held = true;
        continue;
      }
      const { message } = pending;
      if (
        message.channel === 'text' &&
        attempts.length === since &&
        !(await parts.texts.take(run.businessId, message.parts, run.context.business.timeZone))
      ) {
        nextTry = parts.now() + LOOK_AGAIN_MS;
        const noted = plan.does === 'send' ? { plan: { ...plan, note: HELD_BY_CEILING } } : {};
        await notes.settle(record('held', { next_try_at: iso(nextTry), ...noted }));
        held = true;
        continue;
      }
      notes.stillMine();
      const began = parts.now();
      const shut = waited && isFree(pending.message) && !windowOpen(run.context.lastChatAt, began);
      const answer: Answer = shut ? SHUT_MEANWHILE : await this.handOver(pending);
      attempts.push({
        at: iso(began),
        ms: parts.now() - began,
        outcome: answer.kind,
        code: answer.code,
        detail: answer.detail,
      });
      if (answer.kind === 'accepted') {
        if (audience === 'lead') run.firstReplyAt ??= iso(parts.now());
        await notes.settle(record('done'), {
          answers: [
            {
              id: pending.id,
              state: 'accepted',
              remote_id: answer.remoteId,
              detail: answer.detail,
              accepted_at: iso(parts.now()),
            },
          ],
        });
        return null;
      }
      const rule = retryFor(step.ifFails.tryForMinutes);
      const tries = attempts.length - since;
      const firstTry = Date.parse(attempts[Math.min(since, attempts.length - 1)]!.at);
      const delay = answer.kind === 'again' ? retryDelayMs(rule, tries - 1, answer.afterMs, parts.random()) : 0;
      if (answer.kind === 'again' && parts.now() + delay - firstTry <= rule.giveUpAfterMs) {
        nextTry = parts.now() + delay;
        await notes.settle(record('again', { next_try_at: iso(nextTry) }));
        continue;
      }
      const detail = answer.kind === 'refused' ? answer.detail : `Given up after ${tries} tries: ${answer.detail}`;
      const windowShut = answer.kind === 'refused' && answer.code === WINDOW_SHUT;
      const other =
        instead === null && (windowShut || step.ifFails.after === 'other_channel')
          ? planInstead(step, run.context, this.desk.desk, parts.now(), windowShut ? 'shut' : 'refused')
          : null;
      if (windowShut && other?.does === 'nothing') {
        await notes.settle(record('nothing', { plan: other }), { answers: [refusedRow(pending, other.why.text)] });
        return null;
      }
      if (other?.does === 'send') {
        attempts.at(-1)!.outcome = 'refused';
        instead = other;
        since = attempts.length;
        nextTry = this.closed(other.message) ?? parts.now();
        // In one write: taken up again, the run goes on with the other message and never back to the first.
        const made = this.make(step, other, 1);
        await notes.settle(record('again', { next_try_at: iso(nextTry) }), {
          ...made.rows,
          answers: [refusedRow(pending, detail)],
        });
        pending = made.pending;
        continue;
      }
      const kind = answer.kind === 'refused' ? 'message_refused' : 'message_lost';
      const more: Progress = {
        answers: [refusedRow(pending, detail)],
        needs: [needRow(kind, notes.about(step), channel, audience, detail, parts.now())],
      };
      await notes.settle(record('refused'), more);
      return null;
    }
  }

  /** What they want and when they last wrote, as it is now: it may have changed while a message waited. */
  private async askAnew(): Promise<void> {
    const { run } = this.notes;
    const wishes = await this.parts.store.wishesOf(run.leadId);
    run.context = {
      ...run.context,
      consent: allConsents(wishes.consent),
      marketing: allConsents(wishes.marketing),
      lastChatAt: wishes.lastChatAt,
    };
  }

  /** Why a planned message does not go: they want no more of its kind since. What a sequence sends is news. */
  private noMore({ channel, purpose }: OutgoingMessage): StopReason | null {
    const { run } = this.notes;
    const news = purpose === 'marketing' || run.listId !== null;
    const settings = { needsConsent: false, purpose: news ? ('marketing' as const) : ('service' as const) };
    const why = mayNotWrite(run.context, channel, settings);
    return why?.code === 'withdrawn' ? why : null;
  }

  /** Whether a message that wants to sell is within what one person gets in a day; all that a sequence sends is counted. */
  private async hasSlot({ id, message }: PendingDelivery): Promise<boolean> {
    const { run } = this.notes;
    if (message.audience !== 'lead' || (message.purpose !== 'marketing' && run.listId === null)) return true;
    return this.parts.store.takeMarketingSlot(id, run.leadId, run.businessId);
  }

  private async handOver(pending: PendingDelivery): Promise<Answer> {
    const account = this.desk.accounts.get(pending.connectionId);
    if (account) return performSend(this.parts.outside, account, pending.message, pending.id);
    const detail = 'The connection this message was to go out by has been removed';
    return { kind: 'refused', code: 'connection-gone', detail };
  }
}

/** A message that has waited longer than this is looked at once more before it leaves the first time, milliseconds. */
const FRESH_MS = 1000;
/** The code by which a chat network refuses a free message outside the window: docs/gateways.md. */
const WINDOW_SHUT = 'window-shut';
const SHUT_MEANWHILE: Answer = {
  kind: 'refused',
  code: WINDOW_SHUT,
  detail: 'The reply window shut while the message waited',
};
const isFree = (message: OutgoingMessage) => message.channel === 'chat' && !message.template;

const refusedRow = (pending: PendingDelivery, detail: string) => ({
  id: pending.id,
  state: 'refused' as const,
  remote_id: null,
  detail,
  accepted_at: null,
});
