import { useEffect, useMemo, useRef, useState } from 'react';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import type { ColumnType } from '../../core/sheets/column.ts';

export interface SheetPlace {
  country: string;
  timeZone: string;
  locale: string;
}
export interface Sort {
  column: string;
  type: ColumnType;
  down: boolean;
}
export interface ToSort {
  id: number;
  cells: string[];
  type: ColumnType;
  down: boolean;
  place: { country: string; timeZone: string };
}

/**
 * The rows in the order asked for; null while it is worked out. What is typed afterwards leaves the rows where they are: a row
 * that jumps away from under the hand is worse than one out of order.
 */
export function useOrder(rows: GridRow[], sort: Sort | null, place: SheetPlace): GridRow[] | null {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const [order, setOrder] = useState<{ of: Sort; ids: string[] } | null>(null);
  const latest = useRef(rows);
  useEffect(() => {
    latest.current = rows;
  });
  useEffect(() => () => worker.current?.terminate(), []);
  useEffect(() => {
    if (!sort) return setOrder(null);
    const all = latest.current;
    worker.current ??= new Worker(new URL('./sort-worker.ts', import.meta.url), { type: 'module' });
    const id = ++asked.current;
    worker.current.onmessage = ({ data }: MessageEvent<{ id: number; order: Uint32Array }>) => {
      if (data.id === asked.current) setOrder({ of: sort, ids: Array.from(data.order, (at) => all[at]!.id) });
    };
    worker.current.postMessage({
      id,
      cells: all.map((row) => row.cells[sort.column] ?? ''),
      type: sort.type,
      down: sort.down,
      place: { country: place.country, timeZone: place.timeZone },
    } satisfies ToSort);
  }, [sort, place.country, place.timeZone]);
  return useMemo(() => {
    if (!sort) return rows;
    if (order?.of !== sort) return null;
    const byId = new Map(rows.map((row) => [row.id, row]));
    const known = new Set(order.ids);
    return [
      ...order.ids.flatMap((id) => byId.get(id) ?? []),
      // New since: at the end, where they were made.
      ...rows.filter((row) => !known.has(row.id)),
    ];
  }, [rows, sort, order]);
}
