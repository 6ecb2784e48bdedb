import { CREDIT } from '../../core/results/credits.ts';
import type { MarkKey } from '../../core/results/origin.ts';
import { isSale, OUTCOME_WORDS } from '../../core/results/outcomes.ts';
import { bucketsOf, daysIn, type Period, periodBefore, type Unit, unitFor } from '../../core/results/period.ts';
import { inOwnCurrency } from '../../core/results/rates.ts';
import { SORTED_BY } from '../../core/results/sortings.ts';
import {
  type CostSum,
  changeOf,
  type Measures,
  type Rate,
  type ResultRow,
  rateOf,
  resultTable,
  type Sum,
} from '../../core/results/table.ts';
import { currencyOf } from '../../core/words/money.ts';
import { ratesOf } from '../../engine/results/facts.ts';
import type { AskedResults } from './asked.ts';
import type { Looker } from './looker.ts';
import { originsOf, shown, shownNames } from './names.ts';
import { thingOf, thingPath } from './things.ts';

/** A row as it is shown. Counts are whole or, shared among contacts, not. Money in hundredths, by currency. */
export interface ShownRow {
  path: string[];
  leads: number;
  leadsBefore: number;
  leadsChanged: 'up' | 'down' | null;
  /** Of the leads the share answered within five minutes; null where nobody came. */
  inTime: number | null;
  goal: number;
  goalBefore: number;
  goalChanged: 'up' | 'down' | null;
  /** Of those who first came by it; null where that cannot be said. */
  rate: Rate | null;
  kept: number;
  sales: number;
  money: Record<string, number>;
  moneyBefore: Record<string, number>;
  refunds: Record<string, number>;
  cost: Record<string, number>;
  children: ShownRow[];
}

export interface WhereFromView {
  asked: Pick<AskedResults, 'model' | 'by' | 'basis' | 'goal' | 'period'> & { from: string; to: string };
  before: Period;
  /** ISO 4217. */
  currency: string;
  /** What can be counted, by kind. */
  goals: { kind: string; name: string }[];
  all: ShownRow;
  /** What was counted, over time, by the names at the top; the largest few, and the rest together. */
  chart: { unit: Unit; buckets: string[]; series: { name: string; values: number[] }[] };
  /** Whether what advertising cost can be told by this sorting. */
  costed: boolean;
  /** Leads whose results are being reckoned this moment. */
  waiting: number;
}

const SERIES = 5;

interface SumRow {
  origin_id: number | null;
  thing: string;
  when: 'now' | 'before';
  kind: string;
  currency: string;
  credits: string;
  money: string;
  people: string;
}

/** Where leads, and what came of them, come from: the table, and how it went over time. */
export async function getWhereFrom(use: Looker, asked: AskedResults): Promise<WhereFromView> {
  const { days, by, goal } = asked;
  const before = periodBefore(days);
  const [origins, names, sums, buckets, costs, goals, waiting] = await Promise.all([
    originsOf(use),
    shownNames(use),
    sumsOf(use, asked, before),
    bucketSums(use, asked),
    costsOf(use, asked, before),
    goalsOf(use),
    use.db.query<{ n: number }>(
      `select count(distinct d.lead_id)::int as n from result_due d join lead l on l.id = d.lead_id where l.business_id = $1 and d.due_at <= now() + interval '2 seconds'`,
      [use.actor.businessId],
    ),
  ]);
  const path = SORTED_BY[by].path;
  /** The names of a row, from the outside in. */
  const pathOf = ({ origin_id, thing }: Pick<SumRow, 'origin_id' | 'thing'>): string[] => {
    if (origin_id === null) return thingPath(by, thing);
    const origin = origins.get(origin_id);
    return path.map((key) =>
      key === 'source' ? (origin?.source ?? '') : shown(names, key as MarkKey, origin?.[key as MarkKey] ?? ''),
    );
  };
  const table = resultTable(
    sums.map(
      (row): Sum => ({
        ...{ path: pathOf(row), when: row.when, kind: row.kind, currency: row.currency },
        ...{ credits: Number(row.credits), money: Number(row.money), people: Number(row.people) },
      }),
    ),
    costs.map(
      (row): CostSum => ({
        path: path.map((key) => shown(names, key as 'campaign', row[key as 'campaign'])),
        ...{ when: row.when, currency: row.currency, cost: row.cost },
      }),
    ),
    isSale,
  );
  // Nothing is on record of the time before: that is no rise.
  const lengths = { now: daysIn(days), before: (table.before.n.lead ?? 0) > 0 ? daysIn(before) : 0 };
  const { from, to } = days;
  return {
    asked: {
      model: asked.model,
      by,
      basis: asked.basis,
      goal,
      from,
      to,
      ...(asked.period ? { period: asked.period } : {}),
    },
    before,
    currency: currencyOf(use.actor.country),
    goals,
    all: shownRow(table, asked, lengths),
    chart: chartOf(
      asked,
      table,
      buckets.map((row) => ({ top: pathOf(row)[0]!, day: row.day, credits: Number(row.credits) })),
    ),
    costed: COSTED.includes(by),
    waiting: waiting.rows[0]!.n,
  };
}

/** Sortings whose names what advertising cost is told by, too. */
const COSTED: readonly string[] = ['campaign', 'site'];

function shownRow(row: ResultRow, asked: AskedResults, lengths: { now: number; before: number }): ShownRow {
  const { now, before } = row;
  const of = ({ n }: Measures, kind: string) => (n[kind] ?? 0) / CREDIT;
  const sales = ({ n }: Measures) =>
    Object.entries(n).reduce((sum, [kind, credits]) => sum + (kind === 'won' || kind === 'ordered' ? credits : 0), 0) /
    CREDIT;
  const net = ({ sales, refunds }: Measures) => {
    const money = { ...sales };
    for (const [currency, sum] of Object.entries(refunds)) money[currency] = (money[currency] ?? 0) + sum;
    return money;
  };
  // By another model, or by the day it happened, those who did are not some of those who came.
  const rated = asked.model === 'first' && asked.basis === 'came';
  return {
    path: row.path,
    leads: of(now, 'lead'),
    leadsBefore: of(before, 'lead'),
    leadsChanged: changeOf(row, 'lead', lengths),
    inTime: of(now, 'lead') > 0 ? of(now, 'in_five') / of(now, 'lead') : null,
    goal: of(now, asked.goal),
    goalBefore: of(before, asked.goal),
    goalChanged: changeOf(row, asked.goal, lengths),
    rate: rated ? rateOf(row, asked.goal) : null,
    kept: of(now, 'kept'),
    sales: sales(now),
    money: net(now),
    moneyBefore: net(before),
    refunds: now.refunds,
    cost: now.cost,
    children: row.children.map((child) => shownRow(child, asked, lengths)),
  };
}

async function sumsOf(use: Looker, { days, by, basis, model }: AskedResults, before: Period): Promise<SumRow[]> {
  const thing = await thingOf(use, by, 6);
  const day = basis === 'came' ? 'c.came_day' : 'c.day';
  const { rows } = thing
    ? await use.db.query<SumRow>(
        `select null as origin_id, ${thing.name} as thing, case when ${day} >= $2 then 'now' else 'before' end as "when", c.kind, c.currency,
           sum(c.by_${model}) as credits, sum(c.money_${model}) as money, count(*) filter (where c.first and c.by_first > 0) as people
         from result_credit c join lead_result r on r.id = c.result_id ${thing.join}
         where c.business_id = $1 and (${day} between $2 and $3 or ${day} between $4 and $5) group by 1, 2, 3, 4, 5`,
        [use.actor.businessId, days.from, days.to, before.from, before.to, ...thing.values],
      )
    : await use.db.query<SumRow>(
        `select origin_id, '' as thing, case when day >= $2 then 'now' else 'before' end as "when", kind, currency, sum(by_${model}) as credits, sum(money_${model}) as money,
           sum(people) as people
         from result_day where business_id = $1 and basis = $6 and (day between $2 and $3 or day between $4 and $5) group by 1, 2, 3, 4, 5`,
        [use.actor.businessId, days.from, days.to, before.from, before.to, basis],
      );
  return rows;
}

interface BucketRow {
  origin_id: number | null;
  thing: string;
  day: string;
  credits: string;
}

async function bucketSums(
  use: Looker,
  { days, by, basis, model, goal, ...asking }: AskedResults,
): Promise<BucketRow[]> {
  const unit = asking.unit ?? unitFor(days);
  const thing = await thingOf(use, by, 5);
  const day = basis === 'came' ? 'c.came_day' : 'c.day';
  const asked = [use.actor.businessId, days.from, days.to, goal];
  const { rows } = thing
    ? await use.db.query<BucketRow>(
        `select null as origin_id, ${thing.name} as thing, date_trunc('${unit}', ${day})::date::text as day, sum(c.by_${model}) as credits
         from result_credit c join lead_result r on r.id = c.result_id ${thing.join} where c.business_id = $1 and ${day} between $2 and $3 and c.kind = $4 group by 1, 2, 3`,
        [...asked, ...thing.values],
      )
    : await use.db.query<BucketRow>(
        `select origin_id, '' as thing, date_trunc('${unit}', day)::date::text as day, sum(by_${model}) as credits from result_day
         where business_id = $1 and day between $2 and $3 and kind = $4 and basis = $5 group by 1, 2, 3`,
        [...asked, basis],
      );
  return rows;
}

function chartOf(
  { days, goal, ...asking }: AskedResults,
  table: ResultRow,
  rows: { top: string; day: string; credits: number }[],
): WhereFromView['chart'] {
  const unit = asking.unit ?? unitFor(days);
  const buckets = bucketsOf(days, unit);
  const at = new Map(buckets.map((day, i) => [day, i]));
  const most = table.children
    .filter(({ now }) => (now.n[goal] ?? 0) > 0)
    .sort((a, b) => (b.now.n[goal] ?? 0) - (a.now.n[goal] ?? 0))
    .slice(0, SERIES)
    .map(({ path }) => path[0]!);
  const series = new Map(most.map((name) => [name, buckets.map(() => 0)]));
  const rest = buckets.map(() => 0);
  for (const { top, day, credits } of rows) {
    const i = at.get(day);
    if (i === undefined) continue;
    const values = series.get(top) ?? rest;
    values[i]! += credits / CREDIT;
  }
  const all = [...series].map(([name, values]) => ({ name, values }));
  if (rest.some((value) => value > 0)) all.push({ name: 'All others', values: rest });
  return { unit, buckets, series: all };
}

interface CostRow {
  site: string;
  campaign: string;
  adSet: string;
  ad: string;
  when: 'now' | 'before';
  currency: string;
  cost: number;
}

/** What advertising cost in both times, in the business's currency where a rate is known. */
async function costsOf(use: Looker, { days, by }: AskedResults, before: Period): Promise<CostRow[]> {
  if (!COSTED.includes(by)) return [];
  const own = currencyOf(use.actor.country);
  // Only what is of another currency has to be looked at day by day: its rate goes by the day.
  const { rows } = await use.db.query<Omit<CostRow, 'cost'> & { day: string | null; cost: string }>(
    `select site, campaign, ad_set as "adSet", ad, case when currency <> $6 then day::text end as day, case when day >= $2 then 'now' else 'before' end as "when", currency,
       sum(cost) as cost from ad_cost where business_id = $1 and (day between $2 and $3 or day between $4 and $5) group by 1, 2, 3, 4, 5, 6, 7`,
    [use.actor.businessId, days.from, days.to, before.from, before.to, own],
  );
  const rates = (await ratesOf(use.db, [use.actor.businessId])).get(use.actor.businessId) ?? [];
  return rows.map((row) => {
    const hundredths = Math.round(Number(row.cost) * 100);
    const { money, currency } = inOwnCurrency(hundredths, row.currency, own, row.day ?? days.from, rates);
    return { ...row, cost: money, currency };
  });
}

/** What can be counted: what the product knows, stages of the pipelines, and the business's own. */
export async function goalsOf(use: Looker): Promise<{ kind: string; name: string }[]> {
  const { rows } = await use.db.query<{ kind: string; name: string }>(
    `select * from (select 'stage:' || s.id as kind, p.name || ': ' || s.name as name from stage s join pipeline p on p.id = s.pipeline_id and p.removed_at is null where p.business_id = $1 order by p.created_at, s.position) stages
     union all select * from (select 'own:' || id, name from outcome_kind where business_id = $1 and removed_at is null order by name) own`,
    [use.actor.businessId],
  );
  const built = (['booked', 'kept', 'missed', 'cancelled', 'replied', 'listed', 'won', 'ordered'] as const).map(
    (kind) => ({
      kind,
      name: OUTCOME_WORDS[kind],
    }),
  );
  return [...built, ...rows];
}
