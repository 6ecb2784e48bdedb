import { createHash } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { type Credit, creditsOf } from '../../core/results/credits.ts';
import { MODELS, type Model } from '../../core/results/models.ts';
import { MARK_KEYS, type Origin, originKey } from '../../core/results/origin.ts';
import { isSale } from '../../core/results/outcomes.ts';
import { dayOf } from '../../core/time/day-of.ts';
import type { Db } from '../../db/db.ts';
import { type KnownLead, leadFacts } from './facts.ts';

/** One transaction reckons at a time (pg_advisory_xact_lock): days are added up by differences, and nobody else may write one meanwhile. */
export const RESULTS_LOCK = 59;

/** Names of the columns of shares and of money, in the order of MODELS. */
const SHARES = MODELS.map((model) => `by_${model}`);
const MONEY = MODELS.map((model) => `money_${model}`);
const SUMS = [...SHARES, ...MONEY];
const TYPES = [...SHARES.map((name) => `${name} int`), ...MONEY.map((name) => `${name} bigint`)].join(', ');
const SUM_TYPES = SUMS.map((name) => `${name} bigint`).join(', ');

type Sums = Record<`by_${Model}` | `money_${Model}`, number>;

/** A row of result_credit. */
interface CreditRow extends Sums {
  result_id: string;
  kind: string;
  key: string;
  origin_id: number;
  business_id: string;
  at: string;
  day: string;
  came_day: string;
  first: boolean;
  currency: string;
}

/**
 * Reckons anew what has come of these leads, in a transaction that holds RESULTS_LOCK, and adds the days up again. Gives the businesses of whom
 * something has changed.
 */
export async function reckonLeads(client: Db, ids: readonly string[], now: number): Promise<Set<string>> {
  if (ids.length === 0) return new Set();
  const leads = await leadFacts(client, ids, now);
  const old = await client.query<{ id: string; lead_id: string }>(
    'select id, lead_id from lead_result where lead_id = any($1)',
    [ids],
  );
  const resultOf = new Map(old.rows.map((row) => [row.lead_id, row.id]));
  const before = await client.query<CreditRow>(
    `select result_id, kind, key, origin_id, business_id, at, day::text, came_day::text, first, currency, ${SUMS.join(', ')} from result_credit where result_id = any($1)`,
    [old.rows.map((row) => row.id)],
  );
  const credits = leads.map((lead) => ({ lead, id: resultOf.get(lead.id) ?? uuidv7(), credits: creditsOf(lead) }));
  const origins = await originIds(
    client,
    credits.flatMap(({ lead, credits }) => credits.map(({ origin }) => ({ businessId: lead.businessId, origin }))),
  );
  const rows = credits.flatMap(({ lead, id, credits }) => rowsOf(lead, id, credits, origins));
  await writeDifference(client, before.rows, rows);
  const here = new Set(leads.map((lead) => lead.id));
  await client.query('delete from lead_result where lead_id = any($1)', [ids.filter((id) => !here.has(id))]);
  await writeResults(client, credits, origins);
  const again = leads.filter((lead) => lead.until !== null);
  if (again.length > 0)
    await client.query('insert into result_due (lead_id, due_at) select * from unnest($1::uuid[], $2::timestamptz[])', [
      again.map((lead) => lead.id),
      again.map((lead) => new Date(lead.until!)),
    ]);
  return new Set([...before.rows.map((row) => row.business_id), ...leads.map((lead) => lead.businessId)]);
}

/** The ids of these origins; those that are new are written. */
async function originIds(
  client: Db,
  wanted: { businessId: string; origin: Origin }[],
): Promise<(businessId: string, origin: Origin) => number> {
  const nameOf = (businessId: string, origin: Origin) => `${businessId} ${md5(originKey(origin))}`;
  const rows = new Map(
    wanted.map(({ businessId, origin }) => [
      nameOf(businessId, origin),
      {
        ...{ business_id: businessId, key: md5(originKey(origin)), source_id: origin.sourceId },
        ...Object.fromEntries(MARK_KEYS.map((key) => [key === 'adSet' ? 'ad_set' : key, origin[key]])),
      },
    ]),
  );
  type Found = { id: number; business_id: string; key: string };
  const known = await client.query<Found>(
    `select o.id, o.business_id, o.key from jsonb_to_recordset($1::jsonb) as x(business_id uuid, key text) join origin o on o.business_id = x.business_id and o.key = x.key`,
    [JSON.stringify([...rows.values()].map(({ business_id, key }) => ({ business_id, key })))],
  );
  const ids = new Map(known.rows.map((row) => [`${row.business_id} ${row.key}`, row.id]));
  const missing = [...rows].filter(([name]) => !ids.has(name)).map(([, row]) => row);
  if (missing.length > 0) {
    const made = await client.query<Found>(
      `insert into origin (business_id, key, source_id, site, medium, campaign, ad_set, ad, form, page)
       select business_id, key, source_id, site, medium, campaign, ad_set, ad, form, page from jsonb_to_recordset($1::jsonb)
         as x(business_id uuid, key text, source_id uuid, site text, medium text, campaign text, ad_set text, ad text, form text, page text)
       returning id, business_id, key`,
      [JSON.stringify(missing)],
    );
    for (const row of made.rows) ids.set(`${row.business_id} ${row.key}`, row.id);
  }
  return (businessId, origin) => ids.get(nameOf(businessId, origin))!;
}

/** Writes what is different of the credits, and of the days they are counted in. */
async function writeDifference(client: Db, before: CreditRow[], after: CreditRow[]): Promise<void> {
  const was = new Map(before.map((row) => [creditKey(row), signature(row)]));
  const is = new Map(after.map((row) => [creditKey(row), signature(row)]));
  const gone = before.filter((row) => is.get(creditKey(row)) !== signature(row));
  const come = after.filter((row) => was.get(creditKey(row)) !== signature(row));
  if (gone.length > 0)
    await client.query(
      `delete from result_credit c using jsonb_to_recordset($1::jsonb) as x(result_id uuid, kind text, key text, origin_id int)
       where c.result_id = x.result_id and c.kind = x.kind and c.key = x.key and c.origin_id = x.origin_id`,
      [JSON.stringify(gone.map(({ result_id, kind, key, origin_id }) => ({ result_id, kind, key, origin_id })))],
    );
  if (come.length > 0)
    await client.query(
      `insert into result_credit (result_id, kind, key, origin_id, business_id, at, day, came_day, first, currency, ${SUMS.join(', ')})
       select result_id, kind, key, origin_id, business_id, at, day, came_day, first, currency, ${SUMS.join(', ')} from jsonb_to_recordset($1::jsonb)
         as x(result_id uuid, kind text, key text, origin_id int, business_id uuid, at timestamptz, day date, came_day date, first boolean, currency text, ${TYPES})`,
      [JSON.stringify(come)],
    );
  const days = new Map<string, Sums & { people: number }>();
  for (const [sign, rows] of [
    [-1, gone],
    [1, come],
  ] as const)
    for (const row of rows) {
      addTo(days, 'came', row.came_day, row, sign);
      addTo(days, 'happened', row.day, row, sign);
    }
  // In one order, as everything that writes several of them does.
  const changed = [...days.entries()]
    .filter(([, sums]) => Object.values(sums).some((sum) => sum !== 0))
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, sums]) => ({ ...(JSON.parse(name) as Record<string, unknown>), ...sums }));
  if (changed.length > 0)
    await client.query(
      `insert into result_day as d (business_id, basis, day, origin_id, kind, currency, people, ${SUMS.join(', ')})
       select business_id, basis, day, origin_id, kind, currency, people, ${SUMS.join(', ')} from jsonb_to_recordset($1::jsonb)
         as x(business_id uuid, basis text, day date, origin_id int, kind text, currency text, people bigint, ${SUM_TYPES})
       on conflict (business_id, basis, day, origin_id, kind, currency) do update set people = d.people + excluded.people,
         ${SUMS.map((name) => `${name} = d.${name} + excluded.${name}`).join(', ')}`,
      [JSON.stringify(changed)],
    );
}

async function writeResults(
  client: Db,
  reckoned: { lead: KnownLead; id: string; credits: Credit[] }[],
  originOf: (businessId: string, origin: Origin) => number,
): Promise<void> {
  const rows = reckoned.map(({ lead, id, credits }) => {
    const when = (is: (kind: string) => boolean) => {
      const first = credits.find(({ kind }) => is(kind));
      return first ? new Date(first.at).toISOString() : null;
    };
    return {
      ...{ id, business_id: lead.businessId, lead_id: lead.id, source_id: lead.sourceId, rang: lead.rang },
      origin_id: originOf(lead.businessId, firstOrigin(credits)),
      came_at: new Date(lead.createdAt).toISOString(),
      day: dayOf(lead.createdAt, lead.timeZone),
      answered_at: lead.answeredAt === null ? null : new Date(lead.answeredAt).toISOString(),
      replied_at: when((kind) => kind === 'replied'),
      booked_at: when((kind) => kind === 'booked'),
      kept_at: when((kind) => kind === 'kept'),
      sold_at: when((kind) => isSale(kind) && kind !== 'refunded'),
    };
  });
  await client.query(
    `insert into lead_result (id, business_id, lead_id, source_id, origin_id, came_at, day, rang, answered_at, replied_at, booked_at, kept_at, sold_at)
     select id, business_id, lead_id, source_id, origin_id, came_at, day, rang, answered_at, replied_at, booked_at, kept_at, sold_at from jsonb_to_recordset($1::jsonb)
       as x(id uuid, business_id uuid, lead_id uuid, source_id uuid, origin_id int, came_at timestamptz, day date, rang boolean, answered_at timestamptz,
         replied_at timestamptz, booked_at timestamptz, kept_at timestamptz, sold_at timestamptz)
     on conflict (lead_id) do update set source_id = excluded.source_id, origin_id = excluded.origin_id, came_at = excluded.came_at, day = excluded.day, rang = excluded.rang,
       answered_at = excluded.answered_at, replied_at = excluded.replied_at, booked_at = excluded.booked_at, kept_at = excluded.kept_at, sold_at = excluded.sold_at`,
    [JSON.stringify(rows)],
  );
}

const md5 = (text: string): string => createHash('md5').update(text).digest('hex');

/** Where somebody came from first: what their having come is credited to by the first touch. */
const firstOrigin = (credits: readonly Credit[]): Origin =>
  credits.find(({ kind, shares }) => kind === 'lead' && shares.first > 0)!.origin;

function rowsOf(
  lead: KnownLead,
  id: string,
  credits: readonly Credit[],
  originOf: (businessId: string, origin: Origin) => number,
): CreditRow[] {
  const cameDay = dayOf(lead.createdAt, lead.timeZone);
  return credits.map((credit) => ({
    ...{ result_id: id, kind: credit.kind, key: credit.key, business_id: lead.businessId },
    origin_id: originOf(lead.businessId, credit.origin),
    at: new Date(credit.at).toISOString(),
    day: credit.at === lead.createdAt ? cameDay : dayOf(credit.at, lead.timeZone),
    ...{ came_day: cameDay, first: credit.first, currency: credit.currency },
    ...(Object.fromEntries(
      MODELS.flatMap((model) => [
        [`by_${model}`, credit.shares[model]],
        [`money_${model}`, credit.money[model]],
      ]),
    ) as Sums),
  }));
}

const creditKey = (row: CreditRow): string => `${row.result_id} ${row.kind} ${row.origin_id} ${row.key}`;
const signature = (row: CreditRow): string =>
  JSON.stringify([
    ...[new Date(row.at).getTime(), row.day, row.came_day, row.first, row.currency],
    ...SUMS.map((name) => Number(row[name as keyof Sums])),
  ]);

function addTo(
  days: Map<string, Sums & { people: number }>,
  basis: 'came' | 'happened',
  day: string,
  row: CreditRow,
  sign: 1 | -1,
): void {
  const { business_id, origin_id, kind, currency } = row;
  const name = JSON.stringify({ business_id, basis, day, origin_id, kind, currency });
  const sums = days.get(name) ?? ({ people: 0, ...Object.fromEntries(SUMS.map((sum) => [sum, 0])) } as never);
  if (row.first && Number(row.by_first) > 0) sums.people += sign;
  for (const sum of SUMS as (keyof Sums)[]) sums[sum] += sign * Number(row[sum]);
  days.set(name, sums);
}
