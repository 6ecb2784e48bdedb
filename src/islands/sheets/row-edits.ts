import type { GridRow } from '../../app/sheets/sheet-rows.ts';

/** What the grid wants written, as /api/tabs/ID/rows takes it. */
export interface Edits {
  change?: { id: string; cells: Record<string, string> }[];
  insert?: { id: string; after: string | null; cells: Record<string, string> }[];
  remove?: string[];
}
export interface RowEdits {
  tabId: string;
  edits: Edits;
}

/** Most rows sent at once. */
const BATCH = 2000;

/** What has to be written so that `before` becomes `after`. Both in the order of the sheet. */
export function editsBetween(before: readonly GridRow[], after: readonly GridRow[]): Edits[] {
  const known = new Map(before.map((row) => [row.id, row]));
  const kept = new Set(after.map((row) => row.id));
  const remove = before.filter((row) => !kept.has(row.id)).map((row) => row.id);
  const change: NonNullable<Edits['change']> = [];
  const insert: NonNullable<Edits['insert']> = [];
  for (const [i, row] of after.entries()) {
    const was = known.get(row.id);
    if (!was) insert.push({ id: row.id, after: after[i - 1]?.id ?? null, cells: row.cells });
    else if (was.cells !== row.cells) {
      const cells = changedCells(was.cells, row.cells);
      if (Object.keys(cells).length > 0) change.push({ id: row.id, cells });
    }
  }
  const edits: Edits[] = [];
  for (let i = 0; i < Math.max(remove.length, insert.length, change.length); i += BATCH)
    edits.push({
      change: change.slice(i, i + BATCH),
      insert: insert.slice(i, i + BATCH),
      remove: remove.slice(i, i + BATCH),
    });
  return edits;
}

/** What has to be written where rows that are there were changed in these ranges, each from an index up to another. */
export function editsOfRange(
  before: readonly GridRow[],
  after: readonly GridRow[],
  ranges: readonly { fromRowIndex: number; toRowIndex: number }[],
): Edits[] {
  const change: NonNullable<Edits['change']> = [];
  for (const { fromRowIndex, toRowIndex } of ranges)
    for (let at = fromRowIndex; at < toRowIndex; at += 1) {
      const [was, is] = [before[at], after[at]];
      if (!was || !is || was.cells === is.cells) continue;
      const cells = changedCells(was.cells, is.cells);
      if (Object.keys(cells).length > 0) change.push({ id: is.id, cells });
    }
  const edits: Edits[] = [];
  for (let i = 0; i < change.length; i += BATCH) edits.push({ change: change.slice(i, i + BATCH) });
  return edits;
}

function changedCells(was: Record<string, string>, is: Record<string, string>): Record<string, string> {
  const cells: Record<string, string> = {};
  for (const key of new Set([...Object.keys(was), ...Object.keys(is)]))
    if ((was[key] ?? '') !== (is[key] ?? '')) cells[key] = is[key] ?? '';
  return cells;
}
