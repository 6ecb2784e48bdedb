import { createHash } from 'node:crypto';
import type pg from 'pg';
import { v5 as uuidv5 } from 'uuid';
import { type Audience, choiceOf } from '../../core/people/audience.ts';
import { LEFT_OUT, type LeftOut } from '../../core/people/left-out.ts';
import { NO_TOUCHES } from '../../core/source/touches.ts';
import { compareShares } from '../../core/statistics/two-shares.ts';
import { leadZone } from '../../core/time/phone-zone.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { ConsentState, RunContext, RunPerson } from '../../core/workflow/run-context.ts';
import { allConsents, startContext } from '../../core/workflow/run-context.ts';
import { BULK_RANK } from '../../db/hot/message-kinds.ts';
import type { Progress } from '../../db/hot/rows.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { MailingDone } from '../../steps/mailing/definition.ts';
import { planEmail } from '../../steps/plan-email.ts';
import { ChosenLeads } from '../choosing/chosen-leads.ts';
import { scopeOf } from '../choosing/question-sql.ts';
import { LeasedLoop } from '../loop.ts';
import { namesTouch, touchesOf } from '../runs/touches.ts';
import type { SettingsCache } from '../settings-cache.ts';
import { enqueue, type Queued } from './enqueue.ts';
import { connectionFor, type DeliveryParts, makeDelivery } from './make-delivery.ts';

/** Readers whose messages are made in one transaction. */
const AT_ONCE = 200;
const LEASE_SECONDS = 60;

interface DueMailing {
  id: string;
  business_id: string;
  audience: Audience;
  email: MailingDone['email'];
  last_lead: string | null;
  step_id: string;
  planned: number;
  spread_minutes: number;
  subject_b: string;
  part: number;
  decide_after: number;
  winner: 'a' | 'b' | 'none' | null;
}

interface Reader extends RunPerson {
  id: string;
  answers: Record<string, string>;
  own: Record<string, string>;
  /** Their fields on the list it goes to, by key. */
  member: Record<string, string> | null;
  consent: Partial<Record<'email', ConsentState>>;
  marketing: Partial<Record<'email', ConsentState>>;
  owner_id: string | null;
}

interface Page {
  readers: Reader[];
  last: string | null;
  more: boolean;
}

export interface MailerParts extends DeliveryParts {
  pool: pg.Pool;
  settingsCache: SettingsCache;
  outbox: { poke(): void };
  holder: string;
  now: () => number;
}

/**
 * Makes the messages of emails to many, some at a time, for the outbox to send. Where it has come to is written in the same
 * transaction as the messages, and each message's id is made of the mailing and the reader: nobody gets it twice.
 */
export class Mailer {
  readonly loop = new LeasedLoop<DueMailing>({
    name: 'emails to many',
    atOnce: 1,
    due: `exists (select from mailing where state = 'planning' and planned_at <= now() or state = 'trying' and decide_at <= now())`,
    lease: () => this.lease(),
    work: (mailing) => this.plan(mailing),
    about: ({ id }) => ({ mailing: id }),
  });

  constructor(private readonly parts: MailerParts) {}

  private async lease(): Promise<DueMailing[]> {
    await this.decideDue();
    const { rows } = await this.parts.pool.query<DueMailing>(
      `update mailing set lease_by = $1, planned_at = now() + $2::int * interval '1 s'
       where id = (select id from mailing where state = 'planning' and planned_at <= now() order by planned_at limit 1 for update skip locked)
       returning id, business_id, audience, email, last_lead, step_id, planned, spread_minutes, subject_b, part, decide_after, winner`,
      [this.parts.holder, LEASE_SECONDS],
    );
    return rows;
  }

  /** Two subjects are out long enough: the rest gets the better one, or the first when the difference may be chance. */
  private async decideDue(): Promise<void> {
    const { rows } = await this.parts.pool.query<
      Record<'id', string> & Record<'sent_a' | 'sent_b' | 'opened_a' | 'opened_b', number>
    >(
      `select m.id, ${(['a', 'b'] as const)
        .map(
          (one) => `count(*) filter (where d.variant = '${one}' and d.accepted_at is not null)::int as sent_${one},
         count(*) filter (where d.variant = '${one}' and exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened_${one}`,
        )
        .join(', ')}
       from mailing m left join delivery d on d.mailing_id = m.id where m.state = 'trying' and m.decide_at <= now() group by m.id`,
    );
    for (const row of rows) {
      const { larger } = compareShares({ did: row.opened_a, of: row.sent_a }, { did: row.opened_b, of: row.sent_b });
      await this.parts.pool.query(
        `update mailing set state = 'planning', winner = $2, last_lead = null, planned_at = now(), lease_by = null where id = $1 and state = 'trying'`,
        [row.id, larger ?? 'none'],
      );
    }
  }

  private async plan(mailing: DueMailing): Promise<void> {
    let last = mailing.last_lead;
    for (;;) {
      if (this.loop.stopping) return;
      const page = await this.readers(mailing, last);
      if (!(await this.putDown(mailing, page))) return;
      this.parts.outbox.poke();
      if (!page.more) return;
      last = page.last;
    }
  }

  /** The next readers behind `after`. */
  private async readers({ business_id, audience }: DueMailing, after: string | null): Promise<Page> {
    const { pool } = this.parts;
    const chosen = await this.chosen(business_id, audience);
    if (!chosen) return { readers: [], last: null, more: false };
    const { ids, more } = await chosen.page('id', after, AT_ONCE);
    const { rows } = await pool.query<Reader>(
      `select l.id, l.first_name, l.last_name, l.email, l.phone, l.answers, l.own, m.fields as member, l.owner_id,
         automatic_consents_of(l.id, 'service') as consent, automatic_consents_of(l.id, 'marketing') as marketing
       from lead l left join list_member m on m.lead_id = l.id and m.list_id = $2 where l.id = any($1::uuid[]) order by l.id`,
      [ids, 'list' in audience ? audience.list : null],
    );
    return { readers: rows, last: ids.at(-1) ?? null, more };
  }

  private async chosen(businessId: string, audience: Audience): Promise<ChosenLeads | null> {
    const { pool, now } = this.parts;
    return ChosenLeads.open(pool, choiceOf(audience), await scopeOf(pool, businessId, now()));
  }

  /** Writes the messages of these readers. False when the mailing was stopped or belongs to another process by now. */
  private async putDown(mailing: DueMailing, { readers, last, more }: Page): Promise<boolean> {
    const { settingsCache, now } = this.parts;
    const { catalogue } = await settingsCache.provisionsOf(mailing.business_id);
    const connection = connectionFor(catalogue, 'email');
    const batch: { deliveries: Queued[]; links: Required<Progress>['links'] } = { deliveries: [], links: [] };
    const left: { lead_id: string; code: LeftOut; detail: string }[] = [];
    const total =
      mailing.spread_minutes > 0
        ? ((await (await this.chosen(mailing.business_id, mailing.audience))?.count()) ?? 0)
        : 0;
    const touches = namesTouch(mailing.email.settings)
      ? await touchesOf(
          this.parts.pool,
          readers.map(({ id }) => id),
        )
      : null;
    for (const reader of readers) {
      const variant = variantFor(mailing, reader.id);
      if (variant === 'later' || variant === 'before') continue;
      const { shared } = mailing.email;
      const settings =
        variant === 'b' ? { ...mailing.email.settings, subject: mailing.subject_b } : mailing.email.settings;
      const context = startContext({ person: reader, answers: shared.answers }, reader, {
        ...shared,
        ...mailWishes(reader),
        own: reader.own,
        touches: touches?.get(reader.id) ?? NO_TOUCHES,
        zone: leadZone(reader.phone, shared.business.country),
        member: prefixed(mailing.audience, reader.member),
        owner: catalogue.colleagues.find((colleague) => colleague.id === reader.owner_id) ?? null,
      });
      const plan = planEmail({ ...settings, ownFields: true }, { context, catalogue, now: now(), turn: null });
      if (plan.does !== 'send' || connection === null) {
        left.push({ lead_id: reader.id, ...whyNot(plan) });
        continue;
      }
      const id = uuidv5(reader.id, mailing.id);
      const about = { id, businessId: mailing.business_id, runId: null, stepId: mailing.step_id, item: 0 };
      const { pending, rows } = makeDelivery(
        { ...about, leadId: reader.id, bulk: true, listId: 'list' in mailing.audience ? mailing.audience.list : null },
        plan.message,
        connection,
        catalogue.counting,
        this.parts,
        now(),
      );
      const nth = mailing.planned + batch.deliveries.length;
      const wait = total > 0 ? Math.min(1, nth / total) * mailing.spread_minutes * 60_000 : 0;
      batch.deliveries.push({
        ...{ id, businessId: mailing.business_id, leadId: reader.id, stepId: mailing.step_id },
        ...{ message: pending.message, connectionId: pending.connectionId, at: new Date(pending.createdAt) },
        ...{ dueAt: new Date(now() + wait), of: { mailing: { id: mailing.id, rank: BULK_RANK, variant } } },
      });
      batch.links.push(...rows.links);
    }
    return inTransaction(this.parts.pool, async (client) => {
      const { rowCount } = await client.query(
        `update mailing set last_lead = coalesce($3, last_lead), planned = planned + $4, "left" = "left" + $5,
           state = case when not $6 then state when part > 0 and winner is null then 'trying' else 'sending' end,
           decide_at = case when $6 and part > 0 and winner is null then now() + decide_after * interval '1 minute' else decide_at end, planned_at = now() + $7::int * interval '1 s'
         where id = $1 and lease_by = $2 and state = 'planning'`,
        [mailing.id, this.parts.holder, last, batch.deliveries.length, left.length, !more, more ? LEASE_SECONDS : 0],
      );
      mailing.planned += batch.deliveries.length;
      if (rowCount === 1 && left.length > 0)
        await client.query(
          `insert into mailing_left (mailing_id, lead_id, code, detail) select $1, x.lead_id, x.code, x.detail
           from jsonb_to_recordset($2::jsonb) as x(lead_id uuid, code text, detail text) on conflict do nothing`,
          [mailing.id, JSON.stringify(left)],
        );
      if (rowCount === 1) {
        await client.query(
          `insert into tracked_link (token, business_id, delivery_id, run_id, step_id, lead_id, url)
           select x.token, x.business_id, x.delivery_id, null, x.step_id, x.lead_id, x.url
           from jsonb_to_recordset($1::jsonb) as x(token text, business_id uuid, delivery_id uuid, step_id text, lead_id uuid, url text)
           on conflict do nothing`,
          [JSON.stringify(batch.links)],
        );
        await enqueue(client, batch.deliveries);
      }
      return rowCount === 1;
    });
  }
}

/** An email to many goes by what they said about news, whatever it is called, and a no to either kind stops it (reach-sql.ts says the same). */
function mailWishes({ consent, marketing }: Reader): Pick<RunContext, 'consent' | 'marketing'> {
  const no = (['withdrawn', 'doubted'] as const).find((one) => consent.email === one || marketing.email === one);
  const email = no ?? marketing.email ?? 'unknown';
  return { consent: allConsents({ email }), marketing: allConsents({ email }) };
}

/** A reader's fields on the list an email goes to, as fields are called. */
const prefixed = (audience: Audience, member: Reader['member']): Record<string, string> =>
  'list' in audience
    ? Object.fromEntries(Object.entries(member ?? {}).map(([key, value]) => [`${audience.list}.${key}`, value]))
    : {};

/** Why a reader gets nothing, for who asks afterwards. */
function whyNot(plan: Plan): { code: LeftOut; detail: string } {
  if (plan.does !== 'nothing' && plan.does !== 'ask') return { code: 'other', detail: 'No mail server is connected' };
  const { code, text } = plan.why;
  const known = (LEFT_OUT as readonly string[]).includes(code) ? (code as LeftOut) : 'other';
  return { code: known === 'withdrawn' && text.includes('may have asked') ? 'doubted' : known, detail: text };
}

/**
 * Which subject a reader gets. While two are tried, a part of the readers has one each and the rest comes `later`; once it is
 * decided, those who have theirs were `before`. Decided by the reader's own id, so that it is the same whenever it is asked.
 */
function variantFor(
  { id, part, subject_b, winner }: Pick<DueMailing, 'id' | 'part' | 'subject_b' | 'winner'>,
  readerId: string,
): 'a' | 'b' | 'later' | 'before' | null {
  if (subject_b === '' || part === 0) return null;
  const drawn = createHash('sha256').update(`${id}:${readerId}`).digest();
  const tried = (drawn.readUInt32BE(0) / 2 ** 32) * 100 < part;
  if (winner === null) return tried ? (drawn[4]! % 2 === 0 ? 'a' : 'b') : 'later';
  return tried ? 'before' : winner === 'b' ? 'b' : 'a';
}
