import { useRef, useState } from 'react';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import { type History, noHistory, noted, redone, undone } from '../../client/history.ts';

/** Letters typed into one cell one after another are one deed. Rows that did not change are shared between deeds, so each costs little. */
const TYPED = { pauseMs: 2000, wholeMs: Number.POSITIVE_INFINITY, most: 200 };

/** What was done to the rows of a tab, so that it can be undone and done again: one step for whatever one action did. */
export function useSteps(tabId: string) {
  const history = useRef<History<GridRow[]>>(noHistory());
  const of = useRef(tabId);
  const [, shown] = useState(0);
  if (of.current !== tabId) {
    of.current = tabId;
    history.current = noHistory();
  }
  const put = (next: History<GridRow[]>) => {
    history.current = next;
    shown((n) => n + 1);
  };
  const go = (to: ReturnType<typeof undone<GridRow[]>>): GridRow[] | null => {
    if (!to) return null;
    put(to.history);
    return to.value;
  };
  return {
    canUndo: history.current.past.length > 0,
    canRedo: history.current.future.length > 0,
    /** Notes the rows as they are before a deed. `deed` names the cell it is about, empty for anything larger. */
    note: (rows: GridRow[], deed: string): void =>
      put(noted(history.current, rows, { kind: deed, at: Date.now() }, TYPED)),
    undo: (rows: GridRow[]) => go(undone(history.current, rows)),
    redo: (rows: GridRow[]) => go(redone(history.current, rows)),
  };
}
