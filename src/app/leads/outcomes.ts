import { Temporal } from 'temporal-polyfill';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { readNumber } from '../../core/fields/read-number.ts';
import { dayOf } from '../../core/time/day-of.ts';
import { atWallClock } from '../../core/time/zone.ts';
import { currencyOf } from '../../core/words/money.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface LeadOutcome {
  id: string;
  name: string;
  /** ISO 8601. */
  at: string;
  /** "49.00"; null for none. */
  amount: string | null;
  currency: string;
}

/** What the business counts by names of its own that has happened with a lead, and the names there are. */
export async function leadOutcomes(use: Use, leadId: string): Promise<{ outcomes: LeadOutcome[]; names: string[] }> {
  const { businessId } = use.actor;
  const [outcomes, names] = await Promise.all([
    use.db.query<Omit<LeadOutcome, 'at'> & { at: Date }>(
      `select o.id, k.name, o.at, o.amount, o.currency from noted_outcome o join outcome_kind k on k.id = o.kind_id
       where o.lead_id = $1 and o.business_id = $2 order by o.at desc limit 50`,
      [leadId, businessId],
    ),
    use.db.query<{ name: string }>(
      'select name from outcome_kind where business_id = $1 and removed_at is null order by name',
      [businessId],
    ),
  ]);
  return {
    outcomes: outcomes.rows.map((row) => ({ ...row, at: row.at.toISOString() })),
    names: names.rows.map(({ name }) => name),
  };
}

export const NewOutcome = z.object({
  name: z.string().trim().min(1, 'Say what has happened').max(60),
  /** "YYYY-MM-DD"; empty for today. */
  day: z.union([z.literal(''), z.iso.date('Give the day as YYYY-MM-DD')]),
  amount: z.string().max(60),
  /** ISO 4217; empty for the business's own. */
  currency: z
    .union([z.literal(''), z.string().regex(/^[A-Z]{3}$/, 'A currency is three letters, as in EUR')])
    .default(''),
});

/** Notes by hand that something has happened with a lead. */
export async function noteOutcome(
  tx: Write,
  leadId: string,
  input: z.output<typeof NewOutcome>,
): Promise<{ id: string }> {
  demand(tx.actor, 'do-work');
  const { businessId, personId, timeZone, country } = tx.actor;
  const lead = await tx.db.query('select from lead where id = $1 and business_id = $2 and is_person for update', [
    leadId,
    businessId,
  ]);
  if (!lead.rowCount) throw notHere('lead');
  const now = tx.runtime.now();
  const today = dayOf(now, timeZone);
  if (input.day > today)
    throw new Refusal(422, 'day', 'That day is still to come. Note it once it has happened.', { field: 'day' });
  const amount = input.amount.trim() === '' ? null : readNumber(input.amount);
  if (input.amount.trim() !== '' && (amount === null || Math.abs(amount) >= 1e12))
    throw new Refusal(422, 'amount', `“${input.amount}” is no amount.`, { field: 'amount' });
  // Of a day gone by, noon: no clock change moves it to another.
  const at =
    input.day === '' || input.day === today ? now : atWallClock(Temporal.PlainDate.from(input.day), '12:00', timeZone);
  const kind = await tx.db.query<{ id: string }>(
    `insert into outcome_kind (id, business_id, name, created_at) values ($1, $2, $3, $4)
     on conflict (business_id, name) do update set removed_at = null returning id`,
    [uuidv7(), businessId, input.name, new Date(now)],
  );
  const id = uuidv7();
  await tx.db.query(
    `insert into noted_outcome (id, business_id, kind_id, lead_id, key, at, amount, currency, person_id, noted_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
    [
      ...[id, businessId, kind.rows[0]!.id, leadId, `hand:${id}`, new Date(at), amount?.toFixed(2) ?? null],
      ...[amount === null ? '' : input.currency || currencyOf(country), personId, new Date(now)],
    ],
  );
  tx.note('outcome.note', leadId, { name: input.name });
  tx.forget();
  tx.ring();
  return { id };
}

/** It has not happened after all. */
export async function takeBackOutcome(tx: Write, leadId: string, id: string): Promise<void> {
  const { rowCount } = await tx.db.query(
    'delete from noted_outcome where id = $1 and lead_id = $2 and business_id = $3',
    [id, leadId, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('entry');
  tx.note('outcome.take_back', leadId);
  tx.ring();
}

export interface OutcomeKindRow {
  id: string;
  name: string;
  n: number;
  lastAt: string | null;
}

export async function listOutcomeKinds(use: Use): Promise<OutcomeKindRow[]> {
  const { rows } = await use.db.query<{ id: string; name: string; n: number; last: Date | null }>(
    `select k.id, k.name, count(o.id)::int as n, max(o.at) as last from outcome_kind k left join noted_outcome o on o.kind_id = k.id
     where k.business_id = $1 and k.removed_at is null group by k.id order by k.name`,
    [use.actor.businessId],
  );
  return rows.map(({ last, ...row }) => ({ ...row, lastAt: last?.toISOString() ?? null }));
}

/** A name is offered no more. What was counted under it stays with the people it happened with. */
export async function removeOutcomeKind(tx: Write, id: string): Promise<void> {
  const { rowCount } = await tx.db.query(
    'update outcome_kind set removed_at = now() where id = $1 and business_id = $2 and removed_at is null',
    [id, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('outcome');
  tx.note('outcome.remove_kind', id);
  tx.forget();
  tx.ring();
}
