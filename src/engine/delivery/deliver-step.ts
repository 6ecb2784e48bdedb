import type { Answer } from '../../core/delivery/answer.ts';
import { retryFor } from '../../core/delivery/backoff.ts';
import { HELD_WORDS, outcomeOf, type Passage, passageOf } from '../../core/delivery/passage.ts';
import { nextMorning } from '../../core/time/zone.ts';
import type { Step } from '../../core/workflow/definition.ts';
import type { OutgoingMessage, Plan, StopReason } from '../../core/workflow/plan.ts';
import { NEWS_AT } from '../../core/workflow/purpose.ts';
import { allConsents } from '../../core/workflow/run-context.ts';
import type { Attempt } from '../../db/entities/run.ts';
import type { Progress } from '../../db/hot/rows.ts';
import { mayNotWrite } from '../../steps/may-write.ts';
import { windowOpen } from '../../steps/plan-chat.ts';
import { planInstead } from '../../steps/plan-step.ts';
import { type LanesAtWork, type LaneWait, rests } from '../runs/lanes-at-work.ts';
import type { PendingDelivery, StepRecord } from '../runs/leased-run.ts';
import { needRow } from '../runs/need.ts';
import { iso, recordOf } from '../runs/run-notes.ts';
import type { Courier } from './courier.ts';
import { handOver } from './hand-over.ts';
import { LOOK_AGAIN_MS } from './text-allowance.ts';

type SendPlan = Extract<Plan, { does: 'send' }>;

/** A step's message, and what is known of it when its lane comes to it. */
export interface StepMessage {
  step: Step;
  plan: Plan;
  base: Pick<StepRecord, 'step_id' | 'place' | 'started_at'>;
  pending: PendingDelivery;
  /** What was written of the step before; undefined when it is new. */
  before: StepRecord | undefined;
}

/** Hands one message over until it is taken or refused for good; then what was to be sent instead. Gives until when the lane waits, null when it is done. */
export const deliverStep = (courier: Courier, message: StepMessage, atWork: LanesAtWork): Promise<LaneWait | null> =>
  new StepDelivery(courier, message).toTheEnd(atWork);

/** Whether the step's message is settled, or goes on at `nextTry`. */
type Next = 'settled' | 'goes on';

class StepDelivery {
  private readonly attempts: Attempt[];
  private pending: PendingDelivery;
  /** What goes instead of what was planned first. */
  private instead: Plan | null;
  private nextTry: number;
  /** Tries of what is sent instead count from their own beginning. */
  private since: number;
  /** Held, and not waiting for another try. */
  private held: boolean;
  /** What was held goes by the hours as they are when it may go. */
  private wasHeld: boolean;

  constructor(
    private readonly courier: Courier,
    private readonly of: StepMessage,
  ) {
    const { before } = of;
    this.attempts = [...(before?.attempts ?? [])];
    this.pending = of.pending;
    this.instead = before?.instead ?? null;
    this.nextTry = before?.next_try_at ? Date.parse(before.next_try_at) : courier.parts.now();
    this.since = this.instead
      ? Math.max(0, this.attempts.findLastIndex((attempt) => attempt.outcome === 'refused') + 1)
      : 0;
    this.held = before?.state === 'held';
    this.wasHeld = this.held;
  }

  async toTheEnd(atWork: LanesAtWork): Promise<LaneWait | null> {
    const { parts, notes } = this.courier;
    for (;;) {
      const wait = this.nextTry - parts.now();
      if (wait > 0) {
        // What waits for its hours or for tomorrow lets those below it go on; what is tried again keeps their order.
        if (this.held && rests(wait) && !notes.run.definition.rules.holdsLane)
          return { until: this.nextTry, holds: false };
        if (!(await atWork.wait(wait))) return { until: this.nextTry, holds: true };
      }
      this.wasHeld ||= this.held;
      this.held = false;
      if ((await this.tryOnce()) === 'settled') return null;
    }
  }

  private async tryOnce(): Promise<Next> {
    const { parts, notes } = this.courier;
    const { message, createdAt } = this.pending;
    // Tried before, or planned a while ago: what held then may hold no more.
    const waited = this.attempts.length > 0 || parts.now() - Date.parse(createdAt) > FRESH_MS;
    if (message.audience === 'lead' && waited) await this.askAnew();
    const passage = await this.passage();
    if (passage.may === 'not') return this.nothing({ does: 'nothing', why: passage.why }, null);
    if (passage.may === 'later') return this.hold(passage);
    notes.stillMine();
    const began = parts.now();
    const shut = waited && isFree(message) && !windowOpen(notes.run.context.lastChatAt, began);
    const answer: Answer = shut ? SHUT_MEANWHILE : await this.handOver();
    const { kind: outcome, code, detail } = answer;
    this.attempts.push({ at: iso(began), ms: parts.now() - began, outcome, code, detail });
    return this.goOnFrom(answer);
  }

  private passage(): Promise<Passage<StopReason>> {
    const { parts, notes } = this.courier;
    const { run } = notes;
    const { message, id } = this.pending;
    const toLead = message.audience === 'lead';
    const { timeZone } = run.context.business;
    return passageOf(
      {
        stop: toLead ? this.noMore(message) : null,
        // What has just been planned went by the hours then.
        opensAt: this.attempts.length > this.since || this.wasHeld ? this.courier.closed(message) : null,
        news: toLead && (message.purpose === 'marketing' || run.listId !== null),
        parts: message.channel === 'text' && this.attempts.length === this.since ? message.parts : 0,
      },
      {
        news: () => parts.store.takeMarketingSlot(id, run.leadId, run.businessId),
        parts: (n) => parts.texts.take(run.businessId, n, timeZone),
      },
      { tomorrow: nextMorning(parts.now(), NEWS_AT, timeZone), soon: parts.now() + LOOK_AGAIN_MS },
    );
  }

  /** It stays here: planned while it was allowed, and not known to have gone out. */
  private async nothing(plan: Extract<Plan, { does: 'nothing' }>, instead: Plan | null): Promise<Next> {
    await this.settle('nothing', { plan, instead }, { answers: [refusedRow(this.pending, plan.why.text)] });
    return 'settled';
  }

  private async hold({ at, held }: Extract<Passage<StopReason>, { may: 'later' }>): Promise<Next> {
    const { plan } = this.of;
    this.nextTry = at;
    this.held = true;
    const noted = held !== 'hours' && plan.does === 'send' ? { plan: { ...plan, note: HELD_WORDS[held] } } : {};
    await this.settle('held', { next_try_at: iso(at), ...noted });
    return 'goes on';
  }

  private async goOnFrom(answer: Answer): Promise<Next> {
    const { parts, notes } = this.courier;
    const { step } = this.of;
    const outcome = outcomeOf(answer, {
      rule: retryFor(step.ifFails.tryForMinutes),
      tries: this.attempts.length - this.since,
      since: Date.parse(this.attempts[Math.min(this.since, this.attempts.length - 1)]!.at),
      now: parts.now(),
      random: parts.random(),
    });
    if (outcome.is === 'accepted') {
      const at = iso(parts.now());
      if (this.pending.message.audience === 'lead') notes.run.firstReplyAt ??= at;
      const { id } = this.pending;
      const row = {
        id,
        state: 'accepted' as const,
        remote_id: outcome.remoteId,
        detail: answer.detail,
        accepted_at: at,
      };
      await this.settle('done', {}, { answers: [row] });
      return 'settled';
    }
    if (outcome.is === 'again') {
      this.nextTry = outcome.at;
      await this.settle('again', { next_try_at: iso(outcome.at) });
      return 'goes on';
    }
    return outcome.is === 'unsure' ? this.unsure(outcome.detail) : this.refused(answer, outcome.detail);
  }

  /** It may have gone out: a person looks, and says so or sends it again. Nothing goes instead of what they may have got. */
  private async unsure(detail: string): Promise<Next> {
    const { parts, notes } = this.courier;
    const { channel, audience } = this.pending.message;
    await this.settle(
      'refused',
      {},
      {
        answers: [{ ...refusedRow(this.pending, detail), state: 'unsure' }],
        needs: [needRow('message_unsure', notes.about(this.of.step), channel, audience, detail, parts.now())],
      },
    );
    return 'settled';
  }

  /** Refused for good: what was to go instead goes, or somebody is told. */
  private async refused(answer: Answer, detail: string): Promise<Next> {
    const { parts, notes, provisions } = this.courier;
    const { step } = this.of;
    const windowShut = answer.kind === 'refused' && answer.code === WINDOW_SHUT;
    const other =
      this.instead === null && (windowShut || step.ifFails.after === 'other_channel')
        ? planInstead(step, notes.run.context, provisions.catalogue, parts.now(), windowShut ? 'shut' : 'refused')
        : null;
    if (windowShut && other?.does === 'nothing') return this.nothing(other, this.instead);
    if (other?.does === 'send') return this.sendInstead(other, detail);
    const { channel, audience } = this.pending.message;
    const kind = answer.kind === 'refused' ? 'message_refused' : 'message_lost';
    await this.settle(
      'refused',
      {},
      {
        answers: [refusedRow(this.pending, detail)],
        needs: [needRow(kind, notes.about(step), channel, audience, detail, parts.now())],
      },
    );
    return 'settled';
  }

  private async sendInstead(other: SendPlan, detail: string): Promise<Next> {
    const { courier, attempts } = this;
    attempts.at(-1)!.outcome = 'refused';
    this.instead = other;
    this.since = attempts.length;
    this.nextTry = courier.closed(other.message) ?? courier.parts.now();
    // In one write: taken up again, the run goes on with the other message and never back to the first.
    const made = courier.make(this.of.step, other, 1);
    const answers = [refusedRow(this.pending, detail)];
    await this.settle('again', { next_try_at: iso(this.nextTry) }, { ...made.rows, answers });
    this.pending = made.pending;
    return 'goes on';
  }

  private async settle(state: StepRecord['state'], more: Partial<StepRecord>, progress: Progress = {}): Promise<void> {
    const { base, plan } = this.of;
    const record = { ...recordOf(base, state, plan, this.attempts), instead: this.instead, ...more };
    await this.courier.notes.settle(record, progress);
  }

  /** What they want and when they last wrote, as it is now: it may have changed while a message waited. */
  private async askAnew(): Promise<void> {
    const { notes, parts } = this.courier;
    const wishes = await parts.store.wishesOf(notes.run.leadId);
    notes.run.context = {
      ...notes.run.context,
      consent: allConsents(wishes.consent),
      marketing: allConsents(wishes.marketing),
      lastChatAt: wishes.lastChatAt,
    };
  }

  /** Why a planned message does not go: they want no more of its kind since. What a sequence sends is news. */
  private noMore({ channel, purpose }: OutgoingMessage): StopReason | null {
    const { run } = this.courier.notes;
    const news = purpose === 'marketing' || run.listId !== null;
    const settings = { needsConsent: false, purpose: news ? ('marketing' as const) : ('service' as const) };
    const why = mayNotWrite(run.context, channel, settings);
    return why?.code === 'withdrawn' ? why : null;
  }

  private async handOver(): Promise<Answer> {
    const { provisions, parts } = this.courier;
    const account = provisions.accounts.get(this.pending.connectionId);
    if (account) return handOver(parts.outside, parts.store.pool, account, this.pending.message, this.pending.id);
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
