import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { compareShares } from '../../core/statistics/two-shares.ts';
import { readInstant } from '../../core/time/read-instant.ts';
import { whenWords } from '../../core/words/instant.ts';
import { BULK_RANK } from '../../engine/delivery/mailer.ts';
import { EmailSettings } from '../../steps/email/definition.ts';
import { audienceOf, type MailingDone, type MailingShared } from '../../steps/mailing/definition.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { deskFor } from '../workflows/sample.ts';

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
  const desk = await deskFor(use);
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
      whom: audienceOf(`${kind}:${id}`, desk)?.words ?? 'people who are gone',
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

export const MailingInput = z.object({
  /** Made where it was written: pressed twice, it is one email. */
  id: z.uuid().optional(),
  /** "list:ID", "tag:ID" or "segment:ID". */
  to: z.string().max(80),
  email: EmailSettings,
  /** When it begins by the business's clock, "2026-11-26T09:00"; null for at once. */
  at: z.iso.datetime({ local: true }).nullable().default(null),
  spreadMinutes: z
    .number()
    .int()
    .min(0)
    .max(7 * 24 * 60)
    .default(0),
  subjectB: z.string().trim().max(500).default(''),
  /** Percent of the readers the two subjects are tried on, both together. */
  part: z.number().int().min(0).max(100).default(20),
  decideAfter: z
    .number()
    .int()
    .min(10)
    .max(7 * 24 * 60)
    .default(240),
});

/** Sends one email to a list, a segment or a tag, at its time and over its hours; of two subjects the better one goes to the rest. */
export async function sendMailing(tx: Write, input: z.infer<typeof MailingInput>): Promise<{ id: string }> {
  demand(tx.actor, 'coordinator');
  const desk = await deskFor(tx);
  const whom = audienceOf(input.to, desk);
  if (!whom) throw new Refusal(422, 'audience', 'Choose who gets it: a list, a segment or a tag.');
  if (!desk.email)
    throw new Refusal(409, 'no-sender', 'No mail server is connected yet. Connect one under Connections.');
  if (input.email.subject.trim() === '') throw new Refusal(422, 'subject', 'The subject is empty.');
  if (input.email.template === '' && input.email.message.trim() === '')
    throw new Refusal(422, 'message', 'The message is empty.');
  if (input.email.template !== '' && !desk.emailTemplates.some((one) => one.id === input.email.template))
    throw new Refusal(422, 'template', 'The template chosen is no longer there.');
  const { businessName, country, timeZone, holidays, locale } = tx.actor;
  const shared: MailingShared = {
    answers: {},
    where: {},
    source: { name: '' },
    found: {},
    happened: {},
    business: { name: businessName, country, timeZone, holidays, locale },
  };
  const begins = input.at === null ? null : readInstant(input.at, country, timeZone);
  if (begins && begins.at < tx.runtime.now() - 60_000)
    throw new Refusal(422, 'past', 'The time it begins has passed. Choose a later one, or leave it empty for now.');
  const id = input.id ?? uuidv7();
  const made = await tx.db.query(
    `insert into mailing (id, business_id, audience, email, name, state, planned_at, created_at, step_id, started_by_id, spread_minutes, subject_b, part, decide_after)
     values ($1, $2, $3, $4, $5, 'planning', coalesce($6, now()), now(), 'mailing', $7, $8, $9, $10, $11) on conflict (id) do nothing`,
    [
      id,
      tx.actor.businessId,
      JSON.stringify(whom.audience),
      JSON.stringify({ settings: input.email, shared }),
      input.email.subject,
      begins && new Date(begins.at),
      tx.actor.personId,
      input.spreadMinutes,
      input.subjectB,
      input.subjectB === '' ? 0 : input.part,
      input.decideAfter,
    ],
  );
  if (!made.rowCount) {
    // Pressed twice. Changed in between, the first is what goes out, and that must not be taken for the second.
    const same = await tx.db.query(
      `select from mailing where id = $1 and business_id = $2 and audience = $3::jsonb and email = $4::jsonb and subject_b = $5 and spread_minutes = $6`,
      [
        ...[id, tx.actor.businessId, JSON.stringify(whom.audience), JSON.stringify({ settings: input.email, shared })],
        ...[input.subjectB, input.spreadMinutes],
      ],
    );
    if (same.rowCount) return { id };
    throw new Refusal(
      409,
      'planned',
      'This email has been planned already, as it was before you changed it. Look at it under Messages: it can be stopped there, and written anew.',
    );
  }
  tx.note('mailing.send', id, { to: input.to, subject: input.email.subject });
  return { id };
}

/** Stops the rest of an email to many; what has been handed over cannot be called back. Gives how many did not go. */
export async function stopMailing(tx: Write, id: string): Promise<{ kept: number }> {
  demand(tx.actor, 'coordinator');
  const { rowCount } = await tx.db.query(
    `update mailing set state = 'stopped' where id = $1 and business_id = $2 and state <> 'stopped'`,
    [id, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('email');
  const stopped = await tx.db.query(
    `update delivery set state = 'refused', detail = 'The email was stopped', due_at = null where mailing_id = $1 and state = 'sending' and lease_by is null and rank = $2`,
    [id, BULK_RANK],
  );
  tx.note('mailing.stop', id);
  return { kept: stopped.rowCount ?? 0 };
}
