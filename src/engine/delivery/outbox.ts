import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import type { Answer } from '../../core/delivery/answer.ts';
import { retryFor } from '../../core/delivery/backoff.ts';
import { HELD_WORDS, outcomeOf, passageOf } from '../../core/delivery/passage.ts';
import { heldFor } from '../../core/time/quiet-hours.ts';
import { nextMorning } from '../../core/time/zone.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';
import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import { NEWS_AT } from '../../core/workflow/purpose.ts';
import { BULK_RANK, COMMAND_STEP } from '../../db/hot/message-kinds.ts';
import { log } from '../../log.ts';
import type { Outside } from '../../steps/performers.ts';
import type { Bell } from '../bell.ts';
import { LeasedLoop } from '../loop.ts';
import type { SettingsCache } from '../settings-cache.ts';
import { handOver } from './hand-over.ts';
import { OutboxNotes } from './outbox-notes.ts';
import { LOOK_AGAIN_MS, type TextAllowance } from './text-allowance.ts';

/** Messages handed over at once by one process. Those that are one of many have fewer places, and are taken some at a time for each: one by one, each would cost a statement. */
const AT_ONCE = 20;
const BULK_AT_ONCE = 16;
const BULK_TOGETHER = 4;
/** What has waited for its turn so long since it was taken, in milliseconds, is put back: what they want is asked anew. */
const LONGEST_TURN = 10_000;
/** Longer than any hand-over takes: after it another process may try, under the same key. */
const LEASE_SECONDS = 90;
const RULES = { own: retryFor(240), bulk: retryFor(24 * 60) };

interface DueMessage {
  id: string;
  business_id: string;
  run_id: string | null;
  lead_id: string | null;
  step_id: string;
  audience: 'lead' | 'team' | 'test';
  recipient: string;
  connection_id: string;
  message: OutgoingMessage;
  /** ISO 8601. */
  created_at: string;
  rank: number;
  tries: number;
  hours: { from: string; to: string } | null;
  time_zone: string;
  phone: string | null;
  withdrawn: boolean;
  /** Why it is not to go out any more, besides their wish. */
  stopped: string | null;
  /** Milliseconds. */
  leasedAt: number;
}

export interface OutboxParts {
  pool: pg.Pool;
  settingsCache: SettingsCache;
  outside: Outside;
  bell: Bell;
  texts: TextAllowance;
  holder: string;
  now: () => number;
  random: () => number;
}

/**
 * Sends what goes out apart from a run: a question asked again, a draft somebody has let go, an email to many. Each message is
 * a row written before, and its id the key under which it is handed over, so that a crash sends nothing twice that the other
 * side can tell. What is one of many never holds up what is not.
 */
export class Outbox {
  /** Two queues side by side: what is one of many never waits before what is not. */
  readonly loops = (['own', 'bulk'] as const).map(
    (kind) =>
      new LeasedLoop<DueMessage[]>({
        name: kind === 'own' ? 'messages' : 'messages of emails to many',
        atOnce: kind === 'own' ? AT_ONCE : BULK_AT_ONCE,
        takesAtLeast: kind === 'own' ? 1 : BULK_AT_ONCE / 4,
        due: `exists (select from delivery where due_at <= now() and rank ${kind === 'own' ? '<' : '>='} ${BULK_RANK})`,
        lease: (most) => this.lease(kind, most),
        work: (messages) => this.sendAll(messages),
        about: (messages) => ({ deliveries: messages.map(({ id }) => id).join(' ') }),
      }),
  );

  private readonly notes: OutboxNotes;

  constructor(private readonly parts: OutboxParts) {
    this.notes = new OutboxNotes(parts.pool, parts.holder);
  }

  /** Something is due now. */
  poke(): void {
    for (const loop of this.loops) loop.poke();
  }

  /** For as many places as there are, what each works through. */
  private async lease(kind: 'own' | 'bulk', places: number): Promise<DueMessage[][]> {
    const together = kind === 'own' ? 1 : BULK_TOGETHER;
    const at = this.parts.now();
    const { rows } = await this.parts.pool.query<{ m: Omit<DueMessage, 'leasedAt'> }>({
      name: 'lease-messages',
      text: 'select lease_messages($1, $2, $3, $4) as m',
      values: [this.parts.holder, LEASE_SECONDS, places * together, kind === 'bulk'],
    });
    const bundles: DueMessage[][] = [];
    for (let i = 0; i < rows.length; i += together)
      bundles.push(rows.slice(i, i + together).map(({ m }) => ({ ...m, leasedAt: at })));
    return bundles;
  }

  private async sendAll(messages: DueMessage[]): Promise<void> {
    const { now, bell } = this.parts;
    try {
      for (const message of messages) {
        if (now() - message.leasedAt > LONGEST_TURN)
          await this.notes.wait(message.id, now(), 'Waits for its turn', true);
        // One that fails for a reason of ours is taken up again when its lease is over; the others go on.
        else
          await this.send(message).catch((error) =>
            log.error({ scope: 'messages', delivery: message.id, err: error }, 'not handed over'),
          );
      }
    } finally {
      for (const business of new Set(messages.map((message) => message.business_id))) bell.ring(business);
    }
  }

  private async send(dueMessage: DueMessage): Promise<void> {
    const { now, texts, random } = this.parts;
    const { message, lead_id } = dueMessage;
    const toLead = dueMessage.audience === 'lead';
    const passage = await passageOf(
      {
        stop: toLead ? whyNot(dueMessage) : null,
        opensAt:
          toLead && dueMessage.hours
            ? heldFor(now(), dueMessage.hours, dueMessage.phone ?? '', dueMessage.time_zone)
            : null,
        news: toLead && lead_id !== null && (message.purpose === 'marketing' || dueMessage.rank >= BULK_RANK),
        // What answers a STOP goes out whatever else does.
        parts:
          message.channel === 'text' && dueMessage.step_id !== COMMAND_STEP && dueMessage.tries <= 1
            ? message.parts
            : 0,
      },
      {
        news: () => this.notes.hasSlot(dueMessage),
        parts: (parts) => texts.take(dueMessage.business_id, parts, dueMessage.time_zone),
      },
      { tomorrow: nextMorning(now(), NEWS_AT, dueMessage.time_zone), soon: now() + LOOK_AGAIN_MS },
    );
    if (passage.may === 'not') return this.settle(dueMessage, 'refused', passage.why);
    if (passage.may === 'later') return this.notes.wait(dueMessage.id, passage.at, HELD_WORDS[passage.held], true);
    const answer = await this.handOver(dueMessage);
    const outcome = outcomeOf(answer, {
      rule: dueMessage.rank >= BULK_RANK ? RULES.bulk : RULES.own,
      ...{ tries: dueMessage.tries, since: Date.parse(dueMessage.created_at), now: now(), random: random() },
    });
    if (outcome.is === 'again') return this.notes.wait(dueMessage.id, outcome.at, answer.detail, false);
    if (outcome.is === 'refused' || outcome.is === 'unsure') return this.settle(dueMessage, outcome.is, outcome.detail);
    return this.settle(dueMessage, 'accepted', answer.detail, outcome.remoteId);
  }

  private async handOver(dueMessage: DueMessage): Promise<Answer> {
    const { accounts } = await this.parts.settingsCache.provisionsOf(dueMessage.business_id);
    const account = accounts.get(dueMessage.connection_id);
    // One of many stands behind others of many only.
    const apart = account?.kind === 'email' && dueMessage.rank >= BULK_RANK ? { ...account, forMany: true } : account;
    if (apart) return handOver(this.parts.outside, this.parts.pool, apart, dueMessage.message, dueMessage.id);
    const detail = 'The connection this message was to go out by has been removed';
    return { kind: 'refused', code: 'connection-gone', detail };
  }

  private async settle(
    dueMessage: DueMessage,
    state: 'accepted' | 'refused' | 'unsure',
    detail: string,
    remoteId: string | null = null,
  ): Promise<void> {
    const at = new Date(this.parts.now());
    const ours = await this.notes.settle({
      id: dueMessage.id,
      state,
      detail,
      remote_id: remoteId,
      at: at.toISOString(),
    });
    if (!ours || !dueMessage.run_id || dueMessage.audience !== 'lead') return;
    // One of many that could not be sent is counted there; one that somebody waits for is a matter for a person.
    if (state !== 'accepted' && dueMessage.rank < BULK_RANK && !dueMessage.withdrawn)
      await this.parts.pool.query(
        `insert into needs_you (id, business_id, kind, subject, title, detail, run_id, step_id, lead_id, created_at)
         select $1, $2, $10, $3, $4, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), l.phone) || '. ' || $5,
           $6, $7, l.id, $8 from lead l where l.id = $9 on conflict (business_id, subject) do nothing`,
        [
          uuidv7({ msecs: at.getTime() }),
          dueMessage.business_id,
          `delivery:${dueMessage.id}`,
          `${CHANNEL_WORDS[dueMessage.message.channel].one} ${state === 'unsure' ? 'may have gone out' : 'refused'}`,
          detail,
          dueMessage.run_id,
          dueMessage.step_id,
          at,
          dueMessage.lead_id,
          state === 'unsure' ? 'message_unsure' : 'message_refused',
        ],
      );
  }
}

/** Why a message does not go any more: their wish, or what it was part of. */
const whyNot = ({ withdrawn, stopped, message }: DueMessage): string | null =>
  withdrawn ? `Stopped: asked for no more ${CHANNEL_WORDS[message.channel].many}` : stopped;
