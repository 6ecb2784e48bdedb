import { compareCounts } from '../statistics/two-counts.ts';
import { compareShares } from '../statistics/two-shares.ts';
import { wilson } from '../statistics/wilson.ts';
import { CREDIT } from './credits.ts';

/** Sums of one place contacts come from: its names from the outside in ("autumn-trial", "parents-25km", "grand-piano-clip"), "" where it has none. */
export interface Sum {
  path: readonly string[];
  /** In the time asked for, or in the one before it. */
  when: 'now' | 'before';
  kind: string;
  /** "" where there is no money. */
  currency: string;
  /** Of CREDIT. */
  credits: number;
  /** Hundredths. */
  money: number;
  /** Leads whose first of this kind it is. */
  people: number;
}

/** What advertising cost: hundredths. */
export interface CostSum {
  path: readonly string[];
  when: 'now' | 'before';
  currency: string;
  cost: number;
}

export interface Measures {
  /** Credits by kind, of CREDIT. */
  n: Record<string, number>;
  /** Leads by kind, each once. */
  people: Record<string, number>;
  /** Hundredths of the sales, without what went back, and what went back (negative), by currency. */
  sales: Record<string, number>;
  refunds: Record<string, number>;
  cost: Record<string, number>;
}

export interface ResultRow {
  path: string[];
  now: Measures;
  before: Measures;
  children: ResultRow[];
}

const nothing = (): Measures => ({ n: {}, people: {}, sales: {}, refunds: {}, cost: {} });
const add = (to: Record<string, number>, key: string, by: number) => {
  to[key] = (to[key] ?? 0) + by;
};

interface Growing {
  row: ResultRow;
  below: Map<string, Growing>;
}

/**
 * A tree of rows, as deep as the paths are, under one row for all of it. Each row is the exact sum of those below it. Most leads first, what has no name
 * last. `isSale` tells which kinds' money is a sale.
 */
export function resultTable(
  sums: readonly Sum[],
  costs: readonly CostSum[],
  isSale: (kind: string) => boolean,
): ResultRow {
  const grow = (path: string[]): Growing => ({
    row: { path, now: nothing(), before: nothing(), children: [] },
    below: new Map(),
  });
  const root = grow([]);
  /** The row of a path and all above it. */
  const along = (path: readonly string[]): ResultRow[] => {
    let at = root;
    const rows = [root.row];
    for (const [depth, name] of path.entries()) {
      let next = at.below.get(name);
      if (!next) {
        next = grow(path.slice(0, depth + 1));
        at.below.set(name, next);
      }
      at = next;
      rows.push(at.row);
    }
    return rows;
  };
  for (const { path, when, kind, currency, credits, money, people } of sums) {
    // A contact that is credited with nothing by this model makes no row.
    if (credits === 0 && money === 0 && people === 0) continue;
    for (const row of along(path)) {
      add(row[when].n, kind, credits);
      add(row[when].people, kind, people);
      if (money !== 0 && isSale(kind)) add(money < 0 ? row[when].refunds : row[when].sales, currency, money);
    }
  }
  for (const { path, when, currency, cost } of costs)
    for (const row of along(path)) add(row[when].cost, currency, cost);
  const settle = ({ row, below }: Growing): ResultRow => {
    row.children = [...below.values()].map(settle).sort(byLeads);
    return row;
  };
  return settle(root);
}

const leads = (row: ResultRow) => row.now.n.lead ?? 0;
const total = (sums: Record<string, number>) => Object.values(sums).reduce((a, b) => a + b, 0);
const unnamed = (row: ResultRow) => row.path.at(-1) === '';
const byLeads = (a: ResultRow, b: ResultRow): number =>
  Number(unnamed(a)) - Number(unnamed(b)) ||
  leads(b) - leads(a) ||
  total(b.now.cost) - total(a.now.cost) ||
  ((a.path.at(-1) ?? '') < (b.path.at(-1) ?? '') ? -1 : 1);

export interface Rate {
  did: number;
  of: number;
  low: number;
  high: number;
  /** Against the time before, beyond chance; null where that may well be chance. */
  changed: 'up' | 'down' | null;
}

/** Of the leads of a row the share with an outcome of a kind, each counted once, with its range; null where nobody came. */
export function rateOf({ now, before }: ResultRow, kind: string): Rate | null {
  const share = ({ people }: Measures) => ({ did: people[kind] ?? 0, of: people.lead ?? 0 });
  const ours = share(now);
  const range = wilson(ours);
  if (!range || ours.did > ours.of) return null;
  const { larger } = compareShares(ours, share(before));
  return { ...ours, ...range, changed: larger === 'a' ? 'up' : larger === 'b' ? 'down' : null };
}

/** Whether more or fewer came than in the time before, beyond chance. `days` are the lengths of both; one of 0 days is not compared with. */
export function changeOf(
  { now, before }: ResultRow,
  kind: string,
  days: { now: number; before: number },
): 'up' | 'down' | null {
  const whole = (credits: number | undefined) => Math.round((credits ?? 0) / CREDIT);
  const { more } = compareCounts(
    { n: whole(now.n[kind]), over: days.now },
    { n: whole(before.n[kind]), over: days.before },
  );
  return more === 'a' ? 'up' : more === 'b' ? 'down' : null;
}
