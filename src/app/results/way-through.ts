import { bucketsOf, type Period } from '../../core/results/period.ts';
import {
  apartFromRest,
  noCounts,
  type ShownStage,
  STAGES,
  type Stage,
  type StageCounts,
  stopsMost,
  wayOf,
} from '../../core/results/way.ts';
import type { Use } from '../use.ts';
import type { AskedResults } from './asked.ts';
import { FIRST_WORKFLOW, type Group, groupCondition } from './group.ts';
import { originsOf, shown, shownNames } from './names.ts';

export interface WayGroup {
  /** "campaign:NAME" or "workflow:ID". */
  only: string;
  name: string;
  came: number;
  shares: Record<Stage, number>;
  /** Against all the others, beyond chance. */
  apart: Record<Stage, 'up' | 'down' | null>;
}

export interface WayView {
  days: Period;
  period: AskedResults['period'];
  way: ShownStage[];
  stops: ShownStage | null;
  campaigns: WayGroup[];
  workflows: WayGroup[];
  /** By the week in which they came: how many, and how many of them got to each stage so far. */
  weeks: { week: string; came: number; reached: Record<Stage, number> }[];
}

/** When somebody was at a stage. */
const AT: Readonly<Record<Stage, string>> = {
  ...{ came: 'r.came_at', answered: 'r.answered_at', replied: 'r.replied_at' },
  ...{ booked: 'r.booked_at', kept: 'r.kept_at', sold: 'r.sold_at' },
};
/** That none of the later ones was reached. */
const noLater = (stage: Stage) =>
  STAGES.slice(STAGES.indexOf(stage) + 1)
    .map((later) => `and ${AT[later]} is null`)
    .join(' ');
const COUNTS = STAGES.map(
  (stage) =>
    `count(${AT[stage]})::int as ${stage}, count(*) filter (where ${AT[stage]} is not null ${noLater(stage)})::int as ${stage}_last`,
).join(', ');
const TIMES = STAGES.map(
  (stage) =>
    `percentile_cont(array[0.5, 0.9]) within group (order by greatest(0, extract(epoch from ${AT[stage]} - r.came_at))) filter (where ${AT[stage]} is not null) as ${stage}_after`,
).join(', ');

type Counted = Record<Stage | `${Stage}_last`, number>;
type Timed = Record<`${Stage}_after`, [number, number] | null>;

/** How far those get who come in by themselves, how long it takes them, and where they stop. */
export async function getWayThrough(use: Use, asked: AskedResults, group: Group): Promise<WayView> {
  const { from, to } = asked.days;
  const only = await groupCondition(use, group, 4);
  const where = 'from lead_result r where r.business_id = $1 and r.rang and r.day between $2 and $3';
  const days = [use.actor.businessId, from, to];
  const [all, weeks, byOrigin, byWorkflow, origins, names] = await Promise.all([
    use.db.query<Counted & Timed>(`select ${COUNTS}, ${TIMES} ${where} and ${only.sql}`, [...days, only.value]),
    use.db.query<Counted & { week: string }>(
      `select date_trunc('week', r.day)::date::text as week, ${COUNTS} ${where} and ${only.sql} group by 1 order by 1`,
      [...days, only.value],
    ),
    use.db.query<Counted & { origin_id: number }>(`select r.origin_id, ${COUNTS} ${where} group by 1`, days),
    use.db.query<Counted & { id: string; name: string }>(
      `select w.id, w.name, ${COUNTS} from lead_result r join workflow w on w.id = ${FIRST_WORKFLOW}
       where r.business_id = $1 and r.rang and r.day between $2 and $3 group by 1, 2`,
      days,
    ),
    originsOf(use),
    shownNames(use),
  ]);
  const campaigns = new Map<string, StageCounts>();
  const total = noCounts();
  for (const row of byOrigin.rows) {
    const name = shown(names, 'campaign', origins.get(row.origin_id)?.campaign ?? '');
    campaigns.set(name, campaigns.get(name) ?? noCounts());
    addTo(campaigns.get(name)!, row);
    addTo(total, row);
  }
  const way = wayOf(timed(all.rows[0]!));
  const known = new Map(weeks.rows.map((row) => [row.week, row]));
  return {
    days: asked.days,
    period: asked.period,
    way,
    stops: stopsMost(way),
    campaigns: sorted([...campaigns].map(([name, counts]) => groupOf(`campaign:${name}`, name, counts, total))),
    workflows: sorted(
      byWorkflow.rows.map((row) => {
        const counts = noCounts();
        addTo(counts, row);
        return groupOf(`workflow:${row.id}`, row.name, counts, total);
      }),
    ),
    weeks: bucketsOf(asked.days, 'week')
      // Nothing was on record before the first.
      .filter((week) => week >= (weeks.rows[0]?.week ?? ''))
      .slice(-MOST_WEEKS)
      .map((week) => {
        const row = known.get(week);
        return { week, came: row?.came ?? 0, reached: reachedOf(row) };
      }),
  };
}

/** Weeks that can still be read below one another. */
const MOST_WEEKS = 53;

const sorted = (groups: WayGroup[]): WayGroup[] =>
  groups.sort((a, b) => Number(a.name === '') - Number(b.name === '') || b.came - a.came).slice(0, MOST_GROUPS);
const MOST_GROUPS = 40;

const byStage = <T>(make: (stage: Stage) => T): Record<Stage, T> =>
  Object.fromEntries(STAGES.map((stage) => [stage, make(stage)])) as Record<Stage, T>;

const reachedOf = (row: Counted | undefined): Record<Stage, number> => byStage((stage) => row?.[stage] ?? 0);

const groupOf = (only: string, name: string, counts: StageCounts, total: StageCounts): WayGroup => ({
  ...{ only, name, came: counts.came.reached },
  shares: byStage((stage) => (counts.came.reached > 0 ? counts[stage].reached / counts.came.reached : 0)),
  apart: byStage((stage) => apartFromRest(counts, total, stage)),
});

function addTo(counts: StageCounts, row: Counted): void {
  for (const stage of STAGES) {
    counts[stage].reached += row[stage];
    counts[stage].furthest += row[`${stage}_last`];
  }
}

function timed(row: Counted & Timed): StageCounts {
  const counts = noCounts();
  addTo(counts, row);
  for (const stage of STAGES) {
    const after = row[`${stage}_after`];
    if (after) Object.assign(counts[stage], { median: after[0] * 1000, ninety: after[1] * 1000 });
  }
  return counts;
}
