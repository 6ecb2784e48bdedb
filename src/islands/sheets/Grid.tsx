import 'react-datasheet-grid/dist/style.css';
import History from 'lucide-react/icons/history';
import PaintBucket from 'lucide-react/icons/paint-bucket';
import Plus from 'lucide-react/icons/plus';
import Redo2 from 'lucide-react/icons/redo-2';
import Undo2 from 'lucide-react/icons/undo-2';
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { type Column, type DataSheetGridRef, DynamicDataSheetGrid } from 'react-datasheet-grid';
import type { Operation } from 'react-datasheet-grid/dist/types';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import type { TabView } from '../../app/sheets/sheets.ts';
import { type ShadeRule, type SheetColumn, shadeOf } from '../../core/sheets/column.ts';
import { fitsColumn } from '../../core/sheets/fits-column.ts';
import { ColumnBar } from './ColumnBar.tsx';
import { AddRow, ColumnHead, RowNumber, RowNumbers, SheetCell } from './cells.tsx';
import { RowPanel } from './RowPanel.tsx';
import { type Edits, editsBetween, editsOfRange } from './row-edits.ts';
import { ShadingPanel } from './ShadingPanel.tsx';
import { type SheetPlace, type Sort, useOrder } from './use-order.ts';

interface Props {
  tab: TabView;
  rows: GridRow[];
  /** `deed` names the cell that was typed in, empty for anything larger. */
  onRows: (rows: GridRow[], deed: string) => void;
  /** Takes back what was done last; null when there is nothing. */
  undo: (() => void) | null;
  redo: (() => void) | null;
  onEdits: (edits: Edits) => void;
  onColumns: (columns: SheetColumn[]) => void;
  onShading: (shading: ShadeRule[]) => void;
  /** Nothing may be changed by whoever looks. */
  locked: boolean;
  /** Counts what has been saved. */
  saved: number;
  /** How many rows there are in all; more than `rows` while the others are on their way, and nothing can be changed. */
  total: number;
  place: SheetPlace;
}

// Outside the component: the grid begins anew with whatever of these is another.
const GUTTER = { basis: 48, component: RowNumber };
const newRow = (): GridRow => ({ id: crypto.randomUUID(), cells: {} });
const sameRow = ({ rowData }: { rowData: GridRow }): GridRow => ({
  id: crypto.randomUUID(),
  cells: { ...rowData.cells },
});
/** Which one cell was changed, as a name; empty when it was more than one. */
function deedOf(before: readonly GridRow[], after: readonly GridRow[], operations: Operation[]): string {
  const [only] = operations;
  if (operations.length !== 1 || !only || only.toRowIndex - only.fromRowIndex !== 1) return '';
  const [was, is] = [before[only.fromRowIndex], after[only.fromRowIndex]];
  const keys = Object.keys({ ...was?.cells, ...is?.cells }).filter((key) => was?.cells[key] !== is?.cells[key]);
  return keys.length === 1 ? `${is?.id}:${keys[0]}` : '';
}

/** The grid of one tab: type, paste from a spreadsheet, sort, filter. Sorting and filtering change the view, never the sheet. */
export function Grid({
  tab,
  rows,
  undo,
  redo,
  onRows,
  onEdits,
  onColumns,
  onShading,
  saved,
  locked,
  total,
  place,
}: Props) {
  const [sort, setSort] = useState<Sort | null>(null);
  const [panel, setPanel] = useState<'shading' | 'row' | null>(null);
  const [active, setActive] = useState<number | null>(null);
  const loading = rows.length < total;
  const [filters, setFilters] = useState<Record<string, string>>({});
  const [opened, setOpened] = useState<string | null>(null);
  const grid = useRef<DataSheetGridRef>(null);
  const host = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(500);
  useLayoutEffect(() => {
    const measure = () => setHeight(Math.max(200, (host.current?.clientHeight ?? 500) - 4));
    measure();
    const observer = new ResizeObserver(measure);
    if (host.current) observer.observe(host.current);
    return () => observer.disconnect();
  }, []);

  const asked = useMemo(() => Object.entries(filters).filter(([, text]) => text.trim() !== ''), [filters]);
  const filtered = asked.length > 0;
  const ordered = useOrder(rows, sort, place);
  const view = useMemo(() => {
    const shown = ordered ?? rows;
    if (asked.length === 0) return shown;
    const wanted = asked.map(([id, text]) => [id, text.trim().toLowerCase()] as const);
    return shown.filter((row) => wanted.every(([id, text]) => (row.cells[id] ?? '').toLowerCase().includes(text)));
  }, [ordered, rows, asked]);
  const numbers = useMemo(() => (view === rows ? null : new Map(rows.map((row, i) => [row.id, i + 1]))), [view, rows]);

  const change = useCallback(
    (next: GridRow[], operations: Operation[]) => {
      // Typed or pasted over rows that are there: only these have to be looked at, however long the sheet is.
      if (operations.every((one) => one.type === 'UPDATE')) {
        const changed = new Map<string, GridRow>();
        for (const { fromRowIndex, toRowIndex } of operations)
          for (let at = fromRowIndex; at < toRowIndex; at += 1) changed.set(next[at]!.id, next[at]!);
        for (const edits of editsOfRange(view, next, operations)) onEdits(edits);
        onRows(view === rows ? next : rows.map((row) => changed.get(row.id) ?? row), deedOf(view, next, operations));
        return;
      }
      let whole = next;
      if (view !== rows) {
        // Only part of the sheet is in sight, or in another order: each row is put back in its place, new ones at the end.
        const changed = new Map(next.map((row) => [row.id, row]));
        const inSight = new Set(view.map((row) => row.id));
        const kept = rows.filter((row) => !inSight.has(row.id) || changed.has(row.id));
        const known = new Set(rows.map((row) => row.id));
        whole = [...kept.map((row) => changed.get(row.id) ?? row), ...next.filter((row) => !known.has(row.id))];
      }
      for (const edits of editsBetween(rows, whole)) onEdits(edits);
      onRows(whole, '');
    },
    [rows, view, onRows, onEdits],
  );

  const chosen = useCallback(({ cell }: { cell: { row: number } | null }) => {
    if (cell) setActive(cell.row);
  }, []);
  const columns = useMemo<Partial<Column<GridRow>>[]>(
    () =>
      tab.columns.map((column) => {
        return {
          id: column.id,
          title: (
            <ColumnHead
              name={column.name}
              sort={sort?.column === column.id ? (sort.down ? 'down' : 'up') : null}
              filtered={(filters[column.id] ?? '') !== ''}
              onOpen={() => {
                grid.current?.setActiveCell(null);
                setOpened((before) => (before === column.id ? null : column.id));
              }}
            />
          ),
          minWidth: 140,
          cellClassName: ({ rowData }: { rowData: GridRow }) => {
            // While a row is being made the grid asks for it before it is there.
            const cells = rowData?.cells ?? {};
            const shade = shadeOf(column, cells, tab.shading);
            const fits = column.type === undefined || fitsColumn(cells[column.id] ?? '', column, place);
            return `${shade ? `shade-${shade}` : ''} ${fits ? '' : 'not-fitting'} ${column.type === 'number' ? 'numbers' : ''}`;
          },
          component: SheetCell,
          columnData: column,
          disabled: loading || locked,
          disableKeys: false,
          keepFocus: false,
          deleteValue: ({ rowData }) => ({ ...rowData, cells: { ...rowData.cells, [column.id]: '' } }),
          copyValue: ({ rowData }) => rowData.cells[column.id] ?? '',
          pasteValue: ({ rowData, value }) => ({
            ...rowData,
            cells: { ...rowData.cells, [column.id]: String(value ?? '').replace(/\r/g, '') },
          }),
          isCellEmpty: ({ rowData }) => !rowData.cells[column.id],
        } satisfies Partial<Column<GridRow>>;
      }),
    [tab.columns, tab.shading, sort, filters, place, loading, locked],
  );

  const column = tab.columns.find((one) => one.id === opened);
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
      const pressed = event.key.toLowerCase();
      const act = pressed === 'z' ? (event.shiftKey ? redo : undo) : pressed === 'y' ? redo : null;
      // While a cell or another field is typed in, its own undo is meant.
      if (!act || /^(INPUT|TEXTAREA|SELECT)$/.test(document.activeElement?.tagName ?? '')) return;
      event.preventDefault();
      act();
    };
    document.addEventListener('keydown', key);
    return () => document.removeEventListener('keydown', key);
  }, [undo, redo]);
  return (
    <div className="flex h-full flex-col px-4 pt-3">
      <div className="mb-2 flex items-center gap-3 text-note text-ink-2">
        <span data-testid="row-count">
          {filtered
            ? `${view.length.toLocaleString(place.locale)} of ${rows.length.toLocaleString(place.locale)} rows`
            : `${total.toLocaleString(place.locale)} ${total === 1 ? 'row' : 'rows'}`}
        </span>
        {loading && (
          <span role="status" className="flex items-center gap-2">
            <progress className="progress w-32" max={total} value={rows.length} aria-label="How many rows are here" />
            {rows.length.toLocaleString(place.locale)} here; it can be changed once all are
          </span>
        )}
        {sort && !ordered && <span role="status">Sorting …</span>}
        {(filtered || sort) && (
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            onClick={() => {
              setFilters({});
              setSort(null);
            }}
          >
            Show all, in their own order
          </button>
        )}
        <span className="ml-auto" />
        {!locked && (
          <>
            {' '}
            <button type="button" className="btn btn-ghost btn-xs" disabled={!undo} onClick={() => undo?.()}>
              <Undo2 className="size-3.5" aria-hidden="true" />
              Undo
            </button>
            <button type="button" className="btn btn-ghost btn-xs" disabled={!redo} onClick={() => redo?.()}>
              <Redo2 className="size-3.5" aria-hidden="true" />
              Redo
            </button>
          </>
        )}
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          aria-pressed={panel === 'row'}
          onClick={() => setPanel(panel === 'row' ? null : 'row')}
        >
          <History className="size-3.5" aria-hidden="true" />
          Who wrote it
        </button>
        {!locked && (
          <>
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-pressed={panel === 'shading'}
              onClick={() => setPanel(panel === 'shading' ? null : 'shading')}
            >
              <PaintBucket className="size-3.5" aria-hidden="true" />
              Shading
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              onClick={() => onColumns([...tab.columns, { id: '', name: `Column ${tab.columns.length + 1}` }])}
            >
              <Plus className="size-3.5" aria-hidden="true" />
              Add a column
            </button>
          </>
        )}
      </div>
      {column && (
        <ColumnBar
          key={column.id}
          column={column}
          filter={filters[column.id] ?? ''}
          sort={sort?.column === column.id ? (sort.down ? 'down' : 'up') : null}
          onSort={(to) =>
            setSort(to === null ? null : { column: column.id, type: column.type ?? 'text', down: to === 'down' })
          }
          onFilter={(value) => setFilters((before) => ({ ...before, [column.id]: value }))}
          onChange={
            locked ? null : (changed) => onColumns(tab.columns.map((one) => (one.id === column.id ? changed : one)))
          }
          onRemove={
            tab.columns.length > 1 && !locked
              ? () => {
                  setOpened(null);
                  onColumns(tab.columns.filter((one) => one.id !== column.id));
                }
              : null
          }
          onClose={() => setOpened(null)}
        />
      )}
      {panel === 'shading' && <ShadingPanel tab={tab} onChange={onShading} />}
      {tab.columns.map(
        (one) =>
          one.type === 'choice' && (
            <datalist key={one.id} id={`choices-${one.id}`}>
              {one.choices?.map((choice) => (
                <option key={choice} value={choice} />
              ))}
            </datalist>
          ),
      )}
      <div className="flex min-h-0 grow gap-3 pb-2">
        <div className="min-h-0 min-w-0 grow" ref={host}>
          <RowNumbers.Provider value={numbers}>
            <DynamicDataSheetGrid<GridRow>
              ref={grid}
              value={view}
              onChange={change}
              lockRows={loading || locked}
              onActiveCellChange={chosen}
              columns={columns}
              height={height}
              rowHeight={34}
              headerRowHeight={38}
              rowKey="id"
              createRow={newRow}
              duplicateRow={sameRow}
              gutterColumn={GUTTER}
              addRowsComponent={AddRow}
            />
          </RowNumbers.Provider>
        </div>
        {panel === 'row' && (
          <RowPanel
            tabId={tab.id}
            row={
              active !== null && view[active]
                ? { id: view[active].id, number: numbers?.get(view[active].id) ?? active + 1 }
                : null
            }
            saved={saved}
            place={place}
          />
        )}
      </div>
    </div>
  );
}
