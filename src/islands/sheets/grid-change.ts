import type { Operation } from 'react-datasheet-grid/dist/types';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import { type Edits, editsBetween, editsOfRange } from './row-edits.ts';

/** Which one cell was changed, as a name; empty when it was more than one. */
function deedOf(before: readonly GridRow[], after: readonly GridRow[], operations: Operation[]): string {
  const [only] = operations;
  if (operations.length !== 1 || !only || only.toRowIndex - only.fromRowIndex !== 1) return '';
  const [was, is] = [before[only.fromRowIndex], after[only.fromRowIndex]];
  const keys = Object.keys({ ...was?.cells, ...is?.cells }).filter((key) => was?.cells[key] !== is?.cells[key]);
  return keys.length === 1 ? `${is?.id}:${keys[0]}` : '';
}

/** What a change in the grid means for the sheet. */
export interface GridChange {
  /** All rows of the sheet, as they are then. */
  rows: GridRow[];
  edits: Edits[];
  /** The cell that was typed in; empty for anything larger. */
  deed: string;
}

/**
 * Puts what was changed in sight back into the whole sheet. `view` are the rows in sight, `rows` itself when that is all of them in their own order;
 * `next` are they after the change. Rows out of sight stay as and where they are, new ones come at the end.
 */
export function changeOfGrid(rows: GridRow[], view: GridRow[], next: GridRow[], operations: Operation[]): GridChange {
  // Typed or pasted over rows that are there: only these have to be looked at, however long the sheet is.
  if (operations.every(({ type }) => type === 'UPDATE')) {
    const changed = new Map<string, GridRow>();
    for (const { fromRowIndex, toRowIndex } of operations)
      for (let at = fromRowIndex; at < toRowIndex; at += 1) changed.set(next[at]!.id, next[at]!);
    return {
      rows: view === rows ? next : rows.map((row) => changed.get(row.id) ?? row),
      edits: [...editsOfRange(view, next, operations)],
      deed: deedOf(view, next, operations),
    };
  }
  let whole = next;
  if (view !== rows) {
    const changed = new Map(next.map((row) => [row.id, row]));
    const inSight = new Set(view.map((row) => row.id));
    const kept = rows.filter((row) => !inSight.has(row.id) || changed.has(row.id));
    const known = new Set(rows.map((row) => row.id));
    whole = [...kept.map((row) => changed.get(row.id) ?? row), ...next.filter((row) => !known.has(row.id))];
  }
  return { rows: whole, edits: [...editsBetween(rows, whole)], deed: '' };
}
