import { useCallback, useEffect, useRef, useState } from 'react';
import type { GridRow, RowPage } from '../../app/sheets/sheet-rows.ts';
import { call, messageOf } from '../../client/call.ts';

/** The rows of one tab after another: the first page at once, the others behind it. */
export function useTabRows(firstTab: string, firstPage: RowPage, failed: (words: string) => void) {
  /** Null while a tab is opened. */
  const [rows, setRows] = useState<GridRow[] | null>(firstPage.rows);
  const [total, setTotal] = useState(firstPage.total);
  /** Which opening is the last: an older one that still brings rows is too late. */
  const opening = useRef(0);
  const tell = useRef(failed);
  useEffect(() => {
    tell.current = failed;
  });
  const rest = useCallback(async (id: string, first: RowPage, mine: number) => {
    let all = first.rows;
    for (let next = first.next; next !== null; ) {
      const page = await call('GET', `/api/tabs/${id}/rows?after=${next}`);
      if (opening.current !== mine) return;
      all = [...all, ...page.rows];
      setRows(all);
      next = page.next;
    }
    // Rows that came or went meanwhile: there are as many as there are here.
    setTotal(all.length);
  }, []);
  useEffect(() => {
    rest(firstTab, firstPage, ++opening.current).catch((error) => tell.current(messageOf(error)));
  }, [rest, firstTab, firstPage]);
  return {
    rows,
    total,
    show: (next: GridRow[]) => {
      setRows(next);
      setTotal(next.length);
    },
    open: async (id: string) => {
      const mine = ++opening.current;
      setRows(null);
      try {
        const page = await call('GET', `/api/tabs/${id}/rows`);
        if (opening.current !== mine) return;
        setTotal(page.total);
        setRows(page.rows);
        await rest(id, page, mine);
      } catch (error) {
        if (opening.current === mine) tell.current(messageOf(error));
      }
    },
  };
}
