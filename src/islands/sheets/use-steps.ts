import { useRef, useState } from 'react';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';

/** Deeds that can be taken back; rows that did not change are shared between them, so each costs little. */
const MOST = 200;
/** Letters typed into one cell one after another are one deed, milliseconds apart at most. */
const TOGETHER_MS = 2000;

/** What was done to the rows of a tab, so that it can be undone and done again: one step for whatever one action did. */
export function useSteps(tabId: string) {
  const past = useRef<{ rows: GridRow[]; deed: string; at: number }[]>([]);
  const future = useRef<GridRow[][]>([]);
  const of = useRef(tabId);
  const [, shown] = useState(0);
  if (of.current !== tabId) {
    of.current = tabId;
    past.current = [];
    future.current = [];
  }
  return {
    canUndo: past.current.length > 0,
    canRedo: future.current.length > 0,
    /** Notes the rows as they are before a deed. `deed` names the cell it is about, empty for anything larger. */
    note(rows: GridRow[], deed: string): void {
      const last = past.current.at(-1);
      const at = Date.now();
      future.current = [];
      if (deed !== '' && last?.deed === deed && at - last.at < TOGETHER_MS) last.at = at;
      else past.current = [...past.current.slice(1 - MOST), { rows, deed, at }];
      shown((n) => n + 1);
    },
    undo(rows: GridRow[]): GridRow[] | null {
      const last = past.current.pop();
      if (!last) return null;
      future.current.push(rows);
      shown((n) => n + 1);
      return last.rows;
    },
    redo(rows: GridRow[]): GridRow[] | null {
      const next = future.current.pop();
      if (!next) return null;
      past.current.push({ rows, deed: '', at: 0 });
      shown((n) => n + 1);
      return next;
    },
  };
}
