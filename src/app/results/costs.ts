import { randomBytes } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import {
  COST_COLUMNS,
  type CostColumn,
  type CostMapping,
  guessCostColumns,
  NEEDED,
  type ReadCosts,
  readCosts,
} from '../../core/results/costs.ts';
import { columnNames, findHeaderRow } from '../../core/sheets/header-row.ts';
import { dayOf } from '../../core/time/day-of.ts';
import { currencyOf } from '../../core/words/money.ts';
import { CostFeed } from '../../db/entities/results.ts';
import { keepCosts } from '../../engine/results/costs.ts';
import { TableProblem } from '../../tables/table.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** Rows of one file: two years of fifty ads a day. */
const MOST_ROWS = 40_000;
const SHOWN = 6;

export interface LookedAt {
  /** The tabs of a workbook that can be seen, and which of them is read; none for CSV. */
  tabs: string[];
  tab: string | null;
  /** The columns of the file by their names, and which is which. */
  names: string[];
  mapping: CostMapping;
  /** The first rows as they stand in the file. */
  sample: string[][];
  /** What would be kept. */
  lines: number;
  from: string | null;
  to: string | null;
  /** Hundredths, by currency. */
  sums: Record<string, number>;
  left: ReadCosts['left'];
  leftInAll: number;
  /** What is missing before it can be kept, in words; null when nothing is. */
  missing: string | null;
}

interface SentFile {
  name: string;
  bytes: Uint8Array;
  tab: string | null;
}

async function readFile(use: Use, file: SentFile, columns: string | null) {
  const rows: string[][] = [];
  let tabs: string[] = [];
  try {
    tabs = (await use.runtime.tables.tabs(file.bytes)).filter(({ hidden }) => !hidden).map(({ name }) => name);
    if (file.tab !== null && !tabs.includes(file.tab))
      throw new TableProblem('no-such-tab', `The workbook has no tab called “${file.tab}”.`);
    for await (const batch of use.runtime.tables.rows(file.bytes, file.tab ?? tabs[0] ?? null))
      for (const { cells } of batch) {
        if (rows.push(cells) > MOST_ROWS)
          throw new TableProblem(
            'too-many-rows',
            `It has more than ${MOST_ROWS.toLocaleString('en')} rows. Split it by months.`,
          );
      }
  } catch (error) {
    if (error instanceof TableProblem) throw new Refusal(422, error.code, error.message);
    throw error;
  }
  if (rows.length === 0) throw new Refusal(422, 'empty', 'There is nothing in it.');
  const headerAt = findHeaderRow(rows);
  const width = Math.min(60, Math.max(...rows.slice(0, 1000).map((row) => row.length)));
  const names = columnNames(headerAt === null ? null : rows[headerAt]!, width);
  const body = rows.slice(headerAt === null ? 0 : headerAt + 1);
  const mapping = columns === null ? guessCostColumns(names) : chosen(columns, width);
  const { country } = use.actor;
  const read = readCosts(body, mapping, {
    ...{ country, currency: currencyOf(country), names },
    firstRow: (headerAt ?? -1) + 2,
  });
  return { tabs, names, mapping, body, read };
}

/** The columns somebody chose, as JSON: { "day": 0, … }. */
function chosen(columns: string, width: number): CostMapping {
  const Place = z
    .number()
    .int()
    .min(-1)
    .max(width - 1);
  try {
    const keys = Object.keys(COST_COLUMNS) as CostColumn[];
    return z.object(Object.fromEntries(keys.map((key) => [key, Place]))).parse(JSON.parse(columns)) as CostMapping;
  } catch {
    throw new Refusal(422, 'not-understood', 'Choose the columns of this file once more.');
  }
}

const missing = (mapping: CostMapping): string | null => {
  const gone = NEEDED.filter((column) => mapping[column] < 0).map((column) => COST_COLUMNS[column]);
  return gone.length === 0 ? null : `Say which column is ${gone.join(', which is ')}.`;
};

/** What is in a file of costs, and what would be kept of it; nothing is. */
export async function lookAtCosts(use: Use, file: SentFile, columns: string | null): Promise<LookedAt> {
  demand(use.actor, 'build');
  const { tabs, names, mapping, body, read } = await readFile(use, file, columns);
  const days = read.lines.map(({ day }) => day).sort();
  const sums: Record<string, number> = {};
  for (const { currency, cost } of read.lines) sums[currency] = (sums[currency] ?? 0) + cost;
  return {
    ...{ tabs, tab: file.tab ?? tabs[0] ?? null },
    ...{ names, mapping, sample: body.slice(0, SHOWN), lines: read.lines.length, sums },
    ...{ from: days[0] ?? null, to: days.at(-1) ?? null },
    ...{ left: read.left.slice(0, 20), leftInAll: read.left.length, missing: missing(mapping) },
  };
}

/** Keeps what a file says advertising cost. */
export async function takeCosts(
  use: Use,
  file: SentFile,
  columns: string | null,
): Promise<{ lines: number; replaced: number; left: number }> {
  demand(use.actor, 'build');
  const { mapping, read } = await readFile(use, file, columns);
  const gone = missing(mapping);
  if (gone) throw new Refusal(422, 'columns', gone);
  if (read.lines.length === 0) throw new Refusal(422, 'empty', 'No row of it says what was spent on which day.');
  return use.write(async (tx) => {
    const name = file.name.trim() || 'pasted';
    const { replaced } = await keepCosts(tx.db, use.actor.businessId, read.lines, { via: name, at: use.runtime.now() });
    tx.note('costs.take', name, { lines: read.lines.length, replaced });
    tx.ring();
    return { lines: read.lines.length, replaced, left: read.left.length };
  });
}

export interface CostsView {
  currency: string;
  /** What told them, the latest first. Sums in hundredths, by currency. */
  told: { via: string; lines: number; from: string; to: string; at: string; sums: Record<string, number> }[];
  feeds: {
    id: string;
    name: string;
    fetched: boolean;
    address: string | null;
    lastAt: string | null;
    lastLines: number;
    trouble: string;
    nextAt: string | null;
  }[];
  /** Ad platforms that are not asked for costs yet. */
  platforms: { id: string; name: string }[];
  rates: { currency: string; day: string; rate: number }[];
  /** Currencies costs or sales stand in that have no rate. */
  unrated: string[];
}

export async function getCosts(use: Use): Promise<CostsView> {
  const { businessId } = use.actor;
  const own = currencyOf(use.actor.country);
  const [told, feeds, platforms, rates, used] = await Promise.all([
    use.db.query<{ via: string; currency: string; lines: number; from: string; to: string; at: Date; sum: string }>(
      `select via, currency, count(*)::int as lines, min(day)::text as from, max(day)::text as to, max(read_at) as at, sum(cost) as sum from ad_cost where business_id = $1 group by 1, 2 order by max(read_at) desc limit 200`,
      [businessId],
    ),
    use.db.query<{
      id: string;
      name: string;
      key: string;
      connection_id: string | null;
      last_at: Date | null;
      last_lines: number;
      trouble: string;
      next_at: Date | null;
    }>(
      'select id, name, key, connection_id, last_at, last_lines, trouble, next_at from cost_feed where business_id = $1 order by created_at',
      [businessId],
    ),
    use.db.query<{ id: string; name: string }>(
      `select id, name from connection c where business_id = $1 and kind = 'ad_platform' and removed_at is null and not exists (select from cost_feed f where f.connection_id = c.id) order by created_at`,
      [businessId],
    ),
    use.db.query<{ currency: string; day: string; rate: string }>(
      'select currency, day::text, rate from currency_rate where business_id = $1 order by currency, day desc limit 500',
      [businessId],
    ),
    use.db.query<{ currency: string }>(
      `select distinct currency from ad_cost where business_id = $1 union select distinct currency from result_day where business_id = $1 and currency <> ''`,
      [businessId],
    ),
  ]);
  const byVia = new Map<string, CostsView['told'][number]>();
  for (const row of told.rows) {
    const known = byVia.get(row.via);
    const sums = { ...known?.sums, [row.currency]: Math.round(Number(row.sum) * 100) };
    byVia.set(row.via, {
      ...{ via: row.via, lines: (known?.lines ?? 0) + row.lines, at: row.at.toISOString(), sums },
      from: known && known.from < row.from ? known.from : row.from,
      to: known && known.to > row.to ? known.to : row.to,
    });
  }
  const rated = new Set(rates.rows.map(({ currency }) => currency));
  return {
    currency: own,
    told: [...byVia.values()],
    feeds: feeds.rows.map((row) => ({
      ...{
        id: row.id,
        name: row.name,
        fetched: row.connection_id !== null,
        lastLines: row.last_lines,
        trouble: row.trouble,
      },
      address: row.connection_id === null ? `${use.runtime.settings.publicUrl}/costs/${row.key}` : null,
      lastAt: row.last_at?.toISOString() ?? null,
      nextAt: row.next_at?.toISOString() ?? null,
    })),
    platforms: platforms.rows,
    rates: rates.rows.map((row) => ({ ...row, rate: Number(row.rate) })),
    unrated: used.rows.map(({ currency }) => currency).filter((currency) => currency !== own && !rated.has(currency)),
  };
}

export const Told = z.object({ via: z.string().max(100) });

/** Takes back everything one file or feed has told. */
export async function forgetCosts(tx: Write, { via }: z.output<typeof Told>): Promise<{ lines: number }> {
  const { rowCount } = await tx.db.query('delete from ad_cost where business_id = $1 and via = $2', [
    tx.actor.businessId,
    via,
  ]);
  tx.note('costs.forget', via, { lines: rowCount ?? 0 });
  tx.ring();
  return { lines: rowCount ?? 0 };
}

export const NewFeed = z.object({
  /** The ad platform it is fetched from; null for an address it is pushed to. */
  connectionId: z.uuid().nullable(),
  name: z.string().trim().max(100).default(''),
});

/** From now on costs come by themselves. */
export async function addFeed(tx: Write, { connectionId, name }: z.output<typeof NewFeed>): Promise<{ id: string }> {
  const { businessId } = tx.actor;
  const { rows } = connectionId
    ? await tx.db.query<{ name: string }>(
        `select name from connection where id = $1 and business_id = $2 and kind = 'ad_platform' and removed_at is null`,
        [connectionId, businessId],
      )
    : { rows: [{ name: name || 'Pushed' }] };
  if (!rows[0]) throw notHere('connection');
  const same = await tx.db.query<{ n: number }>(
    'select count(*)::int as n from cost_feed where business_id = $1 and (connection_id = $2 or name = $3)',
    [businessId, connectionId, rows[0].name],
  );
  if (same.rows[0]!.n > 0) throw new Refusal(409, 'there-already', `Costs come by “${rows[0].name}” already.`);
  const id = uuidv7();
  const now = new Date(tx.runtime.now());
  tx.em.create(CostFeed, {
    ...{ id, business: businessId, name: rows[0].name, connectionId, key: randomBytes(24).toString('base64url') },
    ...{
      nextAt: connectionId ? now : null,
      leaseUntil: null,
      failures: 0,
      lastAt: null,
      lastLines: 0,
      trouble: '',
      createdAt: now,
    },
  });
  tx.note('costs.feed', id, { name: rows[0].name });
  tx.after(() => tx.runtime.costFeeds.loop.nudge());
  return { id };
}

/** It is fetched now, and not when it would have been. */
export async function fetchNow(tx: Write, id: string): Promise<void> {
  const { rowCount } = await tx.db.query(
    'update cost_feed set next_at = now(), lease_until = null where id = $1 and business_id = $2 and connection_id is not null',
    [id, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('feed');
  tx.after(() => tx.runtime.costFeeds.loop.nudge());
}

/** It comes no more; what it has told stays. */
export async function removeFeed(tx: Write, id: string): Promise<void> {
  const { rowCount } = await tx.db.query('delete from cost_feed where id = $1 and business_id = $2', [
    id,
    tx.actor.businessId,
  ]);
  if (!rowCount) throw notHere('feed');
  tx.note('costs.feed_removed', id);
}

const MOST_RATE = 1_000_000;
export const NewRates = z.object({
  rates: z
    .array(
      z.object({
        currency: z
          .string()
          .trim()
          .toUpperCase()
          .regex(/^[A-Z]{3}$/, 'A currency is three letters, as in EUR'),
        day: z.iso.date('Give the day as YYYY-MM-DD'),
        rate: z.number().positive('A rate is more than 0').max(MOST_RATE, 'That rate is too large'),
      }),
    )
    .min(1)
    .max(2000, 'That is more than 2,000 rates. Take fewer days.'),
});

/** Says what other currencies are worth in the business's own, from a day on. The same day told again is put right. */
export async function addRates(tx: Write, { rates }: z.output<typeof NewRates>): Promise<{ rates: number }> {
  const own = currencyOf(tx.actor.country);
  if (rates.some(({ currency }) => currency === own))
    throw new Refusal(422, 'own-currency', `${own} is your own currency: it needs no rate.`);
  const known = new Set(Intl.supportedValuesOf('currency'));
  const strange = rates.find(({ currency }) => !known.has(currency));
  if (strange) throw new Refusal(422, 'currency', `${strange.currency} is no currency (ISO 4217).`);
  const today = dayOf(tx.runtime.now(), tx.actor.timeZone);
  if (rates.some(({ day }) => day > today)) throw new Refusal(422, 'day', 'A rate of a day to come is not known yet.');
  await tx.db.query(
    `insert into currency_rate (business_id, currency, day, rate) select distinct on (currency, day) $1::uuid, currency, day, rate from jsonb_to_recordset($2::jsonb) as x(currency text, day date, rate numeric)
     on conflict (business_id, currency, day) do update set rate = excluded.rate`,
    [tx.actor.businessId, JSON.stringify(rates)],
  );
  tx.note('costs.rates', rates.map(({ currency }) => currency).join(','), { rates: rates.length });
  tx.ring();
  return { rates: rates.length };
}

export const OneRate = NewRates.shape.rates.element.pick({ currency: true, day: true });

export async function removeRate(tx: Write, { currency, day }: z.output<typeof OneRate>): Promise<void> {
  await tx.db.query('delete from currency_rate where business_id = $1 and currency = $2 and day = $3', [
    tx.actor.businessId,
    currency,
    day,
  ]);
  tx.note('costs.rate_removed', `${currency} ${day}`);
  tx.ring();
}
