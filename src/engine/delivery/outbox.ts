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
import { type Outside, performSend } from '../../steps/performers.ts';
import type { Bell } from '../bell.ts';
import { COMMAND_STEP } from '../inbound/take-command.ts';
import { LeasedLoop } from '../loop.ts';
import type { SettingsCache } from '../settings-cache.ts';
import { OutboxNotes } from './outbox-notes.ts';
import { LOOK_AGAIN_MS, type TextAllowance } from './text-allowance.ts';

/** The step an answer by hand is told by. */
export const BY_HAND_STEP = 'by-hand';

/** Messages handed over at once by one process; those that are one of many have fewer places. */
const AT_ONCE = 20;
const BULK_AT_ONCE = 8;
/** From this rank on a message is one of many. */
const BULK = 5;
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
  created_at: Date;
  rank: number;
  tries: number;
  hours: { from: string; to: string } | null;
  time_zone: string;
  phone: string | null;
  withdrawn: boolean;
  /** Why it is not to go out any more, besides their wish. */
  stopped: string | null;
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
      new LeasedLoop<DueMessage>({
        name: kind === 'own' ? 'messages' : 'messages of emails to many',
        atOnce: kind === 'own' ? AT_ONCE : BULK_AT_ONCE,
        due: `exists (select from delivery where due_at <= now() and rank ${kind === 'own' ? '<' : '>='} ${BULK})`,
        lease: (most) => this.lease(kind, most),
        work: (dueMessage) => this.send(dueMessage).finally(() => this.parts.bell.ring(dueMessage.business_id)),
        about: ({ id, run_id }) => ({ delivery: id, ...(run_id ? { run: run_id } : {}) }),
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

  private async lease(kind: 'own' | 'bulk', most: number): Promise<DueMessage[]> {
    const { rows } = await this.parts.pool.query<DueMessage>({
      name: `outbox-${kind}`,
      text: `with taken as (
         update delivery set lease_by = $1, due_at = now() + $2::int * interval '1 s', tries = tries + 1
         where id in (select id from delivery where due_at <= now() and ${kind === 'own' ? 'rank < $4' : 'rank >= $4'}
           order by rank, due_at limit $3 for update skip locked)
         returning *)
       select t.id, t.business_id, t.run_id, t.lead_id, t.step_id, t.audience, t.recipient, t.connection_id, t.message, t.created_at, t.rank, t.tries, t.hours,
         b.time_zone, l.phone,
         t.step_id <> '${COMMAND_STEP}' and (consents_of(t.lead_id, 'service') ->> t.channel = 'withdrawn'
           or ((t.rank >= $4 or t.message ->> 'purpose' = 'marketing') and consents_of(t.lead_id, 'marketing') ->> t.channel = 'withdrawn')
           -- What a colleague writes is no machine's: they have read it.
           or t.step_id <> '${BY_HAND_STEP}' and automatic_consents_of(t.lead_id, 'service') ->> t.channel = 'doubted') is true as withdrawn,
         case when m.state = 'stopped' then 'The email was stopped'
           when m.audience ? 'list' and not exists (select from list_member x where x.list_id::text = m.audience ->> 'list'
             and x.lead_id = t.lead_id and x.state = 'active') then 'No longer on the list' end as stopped
       from taken t join business b on b.id = t.business_id left join lead l on l.id = t.lead_id left join mailing m on m.id = t.mailing_id
       order by t.rank, t.created_at`,
      values: [this.parts.holder, LEASE_SECONDS, most, BULK],
    });
    return rows;
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
        news: toLead && lead_id !== null && (message.purpose === 'marketing' || dueMessage.rank >= BULK),
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
      rule: dueMessage.rank >= BULK ? RULES.bulk : RULES.own,
      ...{ tries: dueMessage.tries, since: dueMessage.created_at.getTime(), now: now(), random: random() },
    });
    if (outcome.is === 'again') return this.notes.wait(dueMessage.id, outcome.at, answer.detail, false);
    if (outcome.is === 'refused') return this.settle(dueMessage, 'refused', outcome.detail);
    return this.settle(dueMessage, 'accepted', answer.detail, outcome.remoteId);
  }

  private async handOver(dueMessage: DueMessage): Promise<Answer> {
    const { accounts } = await this.parts.settingsCache.provisionsOf(dueMessage.business_id);
    const account = accounts.get(dueMessage.connection_id);
    if (account) return performSend(this.parts.outside, account, dueMessage.message, dueMessage.id);
    const detail = 'The connection this message was to go out by has been removed';
    return { kind: 'refused', code: 'connection-gone', detail };
  }

  private async settle(
    dueMessage: DueMessage,
    state: 'accepted' | 'refused',
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
    if (state === 'refused' && dueMessage.rank < BULK && !dueMessage.withdrawn)
      await this.parts.pool.query(
        `insert into needs_you (id, business_id, kind, subject, title, detail, run_id, step_id, lead_id, created_at)
         select $1, $2, 'message_refused', $3, $4, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), l.phone) || '. ' || $5,
           $6, $7, l.id, $8 from lead l where l.id = $9 on conflict (business_id, subject) do nothing`,
        [
          uuidv7({ msecs: at.getTime() }),
          dueMessage.business_id,
          `delivery:${dueMessage.id}`,
          `${CHANNEL_WORDS[dueMessage.message.channel].one} refused`,
          detail,
          dueMessage.run_id,
          dueMessage.step_id,
          at,
          dueMessage.lead_id,
        ],
      );
  }
}

/** Why a message does not go any more: their wish, or what it was part of. */
const whyNot = ({ withdrawn, stopped, message }: DueMessage): string | null =>
  withdrawn ? `Stopped: asked for no more ${CHANNEL_WORDS[message.channel].many}` : stopped;
