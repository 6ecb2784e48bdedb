import { MODEL_WORDS } from '../../core/results/models.ts';
import { MARK_WORDS } from '../../core/results/origin.ts';
import { SORTED_BY } from '../../core/results/sortings.ts';
import type { Use } from '../use.ts';
import type { AskedResults } from './asked.ts';
import { getWhereFrom, type ShownRow } from './where-from.ts';

const WORDS: Readonly<Record<string, string>> = {
  source: 'Lead source',
  workflow: 'Workflow',
  colleague: 'Colleague',
  segments: 'First word',
  segment: 'Segment',
};
const amount = (sums: Readonly<Record<string, number>>, currency: string): string =>
  ((sums[currency] ?? 0) / 100).toFixed(2);

/** The table of results as a file: a line for each row at the bottom of it, its names before its figures; each currency has columns of its own. */
export async function resultFile(
  use: Use,
  asked: AskedResults,
): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  const view = await getWhereFrom(use, asked);
  const path = SORTED_BY[asked.by].path;
  const currencies = [
    ...new Set([
      view.currency,
      ...[view.all.money, view.all.cost, view.all.refunds].flatMap((sums) => Object.keys(sums)),
    ]),
  ];
  const goal = view.goals.find(({ kind }) => kind === asked.goal)?.name ?? asked.goal;
  const leaves = (row: ShownRow): ShownRow[] => (row.children.length > 0 ? row.children.flatMap(leaves) : [row]);
  async function* rows(): AsyncGenerator<string[][]> {
    yield [
      [
        ...path.map((key) => (key in WORDS ? WORDS[key]! : MARK_WORDS[key as 'campaign'].one)),
        ...['From', 'To', 'Credited to', 'Leads', 'Answered within 5 minutes', goal, 'Kept', 'Sales'],
        ...currencies.flatMap((currency) => [
          `Cost (${currency})`,
          `Money (${currency})`,
          `Of it given back (${currency})`,
        ]),
      ],
    ];
    yield leaves(view.all)
      .filter((row) => row.path.length > 0)
      .map((row) => [
        ...path.map((_, i) => row.path[i] ?? ''),
        ...[view.asked.from, view.asked.to, MODEL_WORDS[asked.model].label],
        ...[row.leads, (row.inTime ?? 0) * row.leads, row.goal, row.kept, row.sales].map((n) =>
          String(Math.round(n * 1e6) / 1e6),
        ),
        ...currencies.flatMap((currency) => [
          amount(row.cost, currency),
          amount(row.money, currency),
          amount(row.refunds, currency),
        ]),
      ]);
  }
  return { name: `results-${view.asked.from}-to-${view.asked.to}`, rows: rows() };
}
