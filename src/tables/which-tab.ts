import { z } from 'zod';
import type { TableTab } from './table.ts';

/** A tab of a workbook as it is remembered from file to file. */
export const KnownTab = z.object({ name: z.string(), index: z.number().int(), id: z.string().default('') });
export type KnownTab = z.infer<typeof KnownTab>;

/**
 * Which tab of a file is meant: the one of that name, else of that id, else the one in its place; the first that can be seen when
 * nothing is known yet. A name counts before an id, because some programs number the tabs anew whenever they save. Null for CSV.
 */
export function whichTab(tabs: readonly TableTab[], known: KnownTab | null): KnownTab | null {
  if (tabs.length === 0) return null;
  const found = [
    known ? tabs.findIndex((tab) => tab.name === known.name) : -1,
    known?.id ? tabs.findIndex((tab) => tab.id === known.id) : -1,
    known ? Math.min(known.index, tabs.length - 1) : -1,
    tabs.findIndex((tab) => !tab.hidden),
    0,
  ].find((index) => index >= 0)!;
  return { name: tabs[found]!.name, index: found, id: tabs[found]!.id };
}
