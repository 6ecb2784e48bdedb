import { CREDIT } from '../../core/results/credits.ts';
import { MODELS, type Model } from '../../core/results/models.ts';
import type { Use } from '../use.ts';
import type { AskedResults } from './asked.ts';
import { getWhereFrom } from './where-from.ts';

/** What is counted at the top of the table, by each model. */
export interface SideBySide {
  rows: { name: string; by: Record<Model, number> }[];
  total: Record<Model, number>;
  /** Where first and last touch disagree most, in a sentence; null where they agree. */
  says: string | null;
}

/** The same outcomes by all models, side by side: they disagree, and why is said. */
export async function getSideBySide(use: Use, asked: AskedResults): Promise<SideBySide> {
  const views = await Promise.all(
    MODELS.map(async (model) => [model, await getWhereFrom(use, { ...asked, model })] as const),
  );
  const rows = new Map<string, Record<Model, number>>();
  const total = {} as Record<Model, number>;
  for (const [model, { all }] of views) {
    total[model] = all.goal;
    for (const child of all.children) {
      const by = rows.get(child.path[0]!) ?? { first: 0, last: 0, even: 0, ends: 0, fading: 0 };
      by[model] = child.goal;
      rows.set(child.path[0]!, by);
    }
  }
  const counted = [...rows]
    .filter(([, by]) => MODELS.some((model) => by[model] > 0))
    .map(([name, by]) => ({ name, by }))
    .sort((a, b) => b.by.first - a.by.first);
  return { rows: counted, total, says: disagreement(counted) };
}

/** The place where first and last touch are furthest from one another. */
export function disagreement(rows: SideBySide['rows']): string | null {
  const apart = rows
    .map(({ name, by }) => ({ name: name === '' ? 'what has no mark' : name, by, by_how_much: by.first - by.last }))
    .sort((a, b) => Math.abs(b.by_how_much) - Math.abs(a.by_how_much))[0];
  if (!apart || Math.abs(apart.by_how_much) < 1 / CREDIT) return null;
  const { name, by } = apart;
  const [first, last] = [Math.round(by.first), Math.round(by.last)];
  return by.first > by.last
    ? `They disagree most about ${name}: ${first} by first touch, ${last} by last. It is how people come to know you; before it happens they come back another way.`
    : `They disagree most about ${name}: ${first} by first touch, ${last} by last. It is how people come back who know you already from elsewhere.`;
}
