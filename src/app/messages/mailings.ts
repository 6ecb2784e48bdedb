import { z } from 'zod';
import { compareShares } from '../../core/statistics/two-shares.ts';
import { whenWords } from '../../core/words/instant.ts';
import { audienceOf, type MailingDone } from '../../steps/mailing/definition.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';

export interface MailingRow {
  id: string;
  name: string;
  subject: string;
  /** "the list Practice tips". */
  whom: string;
  state: 'draft' | 'planning' | 'trying' | 'sending' | 'stopped';
  /** When it begins, or began. */
  at: string;
  /** Made for, left out, handed over, still to go. */
  planned: number;
  left: number;
  sent: number;
  waiting: number;
  failed: number;
  opened: number;
  followed: number;
  /** What the rest waits for, in words; null when nothing waits. */
  waitsFor: string | null;
  /** Both subjects, when two were tried. */
  tried: {
    a: TriedSubject;
    b: TriedSubject;
    winner: 'a' | 'b' | 'none' | null;
    decideAt: string | null;
    chance: number;
  } | null;
}

export interface TriedSubject {
  subject: string;
  sent: number;
  opened: number;
}

export async function listMailings(use: Use, id: string | null = null): Promise<MailingRow[]> {
  const catalogue = await catalogueFor(use);
  const { rows } = await use.db.query(
    `select m.*, count(d.id) filter (where d.accepted_at is not null)::int as sent, count(d.id) filter (where d.state = 'sending')::int as waiting,
       count(d.id) filter (where d.state in ('refused', 'undelivered'))::int as failed,
       count(d.id) filter (where exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened,
       count(d.id) filter (where exists (select from visit v where v.delivery_id = d.id and v.kind = 'link' and not v.machine))::int as followed,
       count(d.id) filter (where d.variant = 'a' and d.accepted_at is not null)::int as sent_a,
       count(d.id) filter (where d.variant = 'b' and d.accepted_at is not null)::int as sent_b,
       count(d.id) filter (where d.variant = 'a' and exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened_a,
       count(d.id) filter (where d.variant = 'b' and exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened_b
     from mailing m left join delivery d on d.mailing_id = m.id where m.business_id = $1 and ($2::uuid is null or m.id = $2) group by m.id order by m.created_at desc limit 50`,
    [use.actor.businessId, id],
  );
  const waits = await waitsOf(
    use,
    rows.filter((row) => row.waiting > 0).map((row) => row.id),
  );
  return rows.map((row) => {
    const { settings } = row.email as MailingDone['email'];
    const [kind, id] = Object.entries(row.audience as Record<string, string>)[0]!;
    const a = { subject: settings.subject, sent: row.sent_a, opened: row.opened_a };
    const b = { subject: row.subject_b, sent: row.sent_b, opened: row.opened_b };
    return {
      id: row.id,
      name: row.name || settings.subject,
      subject: settings.subject,
      whom: audienceOf(`${kind}:${id}`, catalogue)?.words ?? 'people who are gone',
      state: row.state,
      at: row.planned_at.toISOString(),
      planned: row.planned,
      left: row.left,
      sent: row.sent,
      waiting: row.waiting,
      failed: row.failed,
      opened: row.opened,
      followed: row.followed,
      waitsFor: waits.get(row.id) ?? planWords(row.state, row.planned_at, use),
      tried:
        row.subject_b === ''
          ? null
          : {
              a,
              b,
              winner: row.winner,
              decideAt: row.decide_at?.toISOString() ?? null,
              chance: compareShares({ did: a.opened, of: a.sent }, { did: b.opened, of: b.sent }).p,
            },
    };
  });
}

/** What messages of these mailings wait for, the largest group first. */
async function waitsOf(use: Use, ids: string[]): Promise<Map<string, string>> {
  const { rows } = await use.db.query<{ id: string; detail: string; n: number; first: Date; last: Date }>(
    `select mailing_id as id, detail, count(*)::int as n, min(due_at) as first, max(due_at) as last from delivery
     where mailing_id = any($1::uuid[]) and state = 'sending' group by 1, 2 order by n desc`,
    [ids],
  );
  const now = use.runtime.now();
  const place = { locale: use.actor.locale, timeZone: use.actor.timeZone };
  const when = (at: Date) => whenWords(at.toISOString(), now, place);
  const words = new Map<string, string>();
  for (const { id, detail, n, first, last } of rows) {
    if (words.has(id)) continue;
    const due = first.getTime() <= now + SOON_MS;
    words.set(
      id,
      detail !== ''
        ? `${n}: ${detail.replace(/\.$/, '')}. Next try ${when(first)}.`
        : !due
          ? `${n} go out by ${when(last)}, as it was planned.`
          : now - first.getTime() > LATE_MS
            ? `${n} should have gone out by ${when(first)}: nobody hands them over. Is the worker running?`
            : `${n} are being handed over.`,
    );
  }
  return words;
}

const SOON_MS = 60_000;
const LATE_MS = 2 * 60_000;

/** The same before its messages are made. */
function planWords(state: MailingRow['state'], plannedAt: Date, use: Use): string | null {
  if (state !== 'planning') return null;
  const now = use.runtime.now();
  const when = whenWords(plannedAt.toISOString(), now, { locale: use.actor.locale, timeZone: use.actor.timeZone });
  if (plannedAt.getTime() > now + SOON_MS) return `It begins ${when}.`;
  return now - plannedAt.getTime() > LATE_MS
    ? `It should have begun ${when}: nobody makes its messages. Is the worker running?`
    : 'Its messages are being made.';
}

/** What became of an email for one person it was meant for. */
export interface MailingPerson {
  id: string;
  name: string;
  email: string;
  outcome: 'sent' | 'waiting' | 'failed' | 'left';
  /** Why, or when, in words. */
  detail: string;
}

export const MAILING_OUTCOMES = ['sent', 'waiting', 'failed', 'left'] as const;
const PEOPLE_AT_ONCE = 100;

/** One email to many, and what became of it for each person; of one outcome, or of all. */
export async function getMailing(
  use: Use,
  id: string,
  outcome: MailingPerson['outcome'] | null,
  after: string | null,
): Promise<{
  mailing: MailingRow;
  people: MailingPerson[];
  next: string | null;
  reasons: { detail: string; count: number }[];
}> {
  if (!z.uuid().safeParse(id).success || (after !== null && !z.uuid().safeParse(after).success)) throw notHere('email');
  const [mailing] = await listMailings(use, id);
  if (!mailing) throw notHere('email');
  const { db } = use;
  const { rows } = await db.query<MailingPerson & { at: Date | null }>(
    `select l.id, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), 'Without a name') as name, l.email, x.outcome, x.detail, x.at from (
       select lead_id, case when accepted_at is not null and state <> 'undelivered' then 'sent' when state = 'sending' then 'waiting' else 'failed' end as outcome, detail, accepted_at as at
         from delivery where mailing_id = $1
       union all select lead_id, 'left', detail, null from mailing_left where mailing_id = $1) x
     join lead l on l.id = x.lead_id where l.business_id = $2 and ($3::text is null or x.outcome = $3) and ($4::uuid is null or l.id > $4) order by l.id limit $5`,
    [id, use.actor.businessId, outcome, after, PEOPLE_AT_ONCE + 1],
  );
  const reasons = await db.query<{ detail: string; count: number }>(
    'select detail, count(*)::int as count from mailing_left where mailing_id = $1 group by 1 order by 2 desc limit 20',
    [id],
  );
  const place = { locale: use.actor.locale, timeZone: use.actor.timeZone };
  const people = rows.slice(0, PEOPLE_AT_ONCE).map(({ at, ...one }) => ({
    ...one,
    detail: one.outcome === 'sent' && at ? whenWords(at.toISOString(), use.runtime.now(), place) : one.detail,
  }));
  return { mailing, people, next: rows.length > PEOPLE_AT_ONCE ? people.at(-1)!.id : null, reasons: reasons.rows };
}

/** The state of an email to many, as people say it: "Sent" only where somebody got it. */
export function mailingWords({
  state,
  sent,
  waiting,
  planned,
}: Pick<MailingRow, 'state' | 'sent' | 'waiting' | 'planned'>): {
  words: string;
  good: boolean;
} {
  if (state === 'stopped') return { words: 'Stopped', good: false };
  if (state === 'draft') return { words: 'Draft', good: false };
  if (state === 'planning') return { words: planned > 0 ? 'On its way' : 'Planned', good: false };
  if (state === 'trying') return { words: 'Two subjects are tried', good: false };
  if (waiting > 0) return { words: 'On its way', good: false };
  return sent > 0 ? { words: 'Sent', good: true } : { words: 'Nobody got it', good: false };
}
