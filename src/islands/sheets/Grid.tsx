import 'react-datasheet-grid/dist/style.css';
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { type DataSheetGridRef, DynamicDataSheetGrid } from 'react-datasheet-grid';
import type { Operation } from 'react-datasheet-grid/dist/types';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import type { TabView } from '../../app/sheets/sheets.ts';
import type { ShadeRule, SheetColumn } from '../../core/sheets/column.ts';
import { ColumnBar } from './ColumnBar.tsx';
import { AddRow, RowNumber, RowNumbers } from './cells.tsx';
import { type GridPanel, GridTools } from './GridTools.tsx';
import { changeOfGrid } from './grid-change.ts';
import { RowPanel } from './RowPanel.tsx';
import type { Edits } from './row-edits.ts';
import { ShadingPanel } from './ShadingPanel.tsx';
import { useGridColumns } from './use-grid-columns.tsx';
import { type SheetPlace, type Sort, useOrder } from './use-order.ts';
import { useUndoKeys } from './use-undo-keys.ts';

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
/** The height there is for the grid, in pixels. */
function useHeight() {
  const host = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(500);
  useLayoutEffect(() => {
    const measure = () => setHeight(Math.max(200, (host.current?.clientHeight ?? 500) - 4));
    measure();
    const observer = new ResizeObserver(measure);
    if (host.current) observer.observe(host.current);
    return () => observer.disconnect();
  }, []);
  return { host, height };
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
  const [panel, setPanel] = useState<GridPanel | null>(null);
  const [active, setActive] = useState<number | null>(null);
  const loading = rows.length < total;
  const [filters, setFilters] = useState<Record<string, string>>({});
  const [opened, setOpened] = useState<string | null>(null);
  const grid = useRef<DataSheetGridRef>(null);
  const { host, height } = useHeight();

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
      const change = changeOfGrid(rows, view, next, operations);
      for (const edits of change.edits) onEdits(edits);
      onRows(change.rows, change.deed);
    },
    [rows, view, onRows, onEdits],
  );

  const chosen = useCallback(({ cell }: { cell: { row: number } | null }) => {
    if (cell) setActive(cell.row);
  }, []);
  const onOpen = useCallback((columnId: string) => {
    grid.current?.setActiveCell(null);
    setOpened((before) => (before === columnId ? null : columnId));
  }, []);
  const columns = useGridColumns({ tab, sort, filters, place, fixed: loading || locked, onOpen });

  const column = tab.columns.find((column) => column.id === opened);
  useUndoKeys(undo, redo);
  return (
    <div className="flex h-full flex-col px-4 pt-3">
      <GridTools
        shown={filtered ? view.length : null}
        here={rows.length}
        total={total}
        sorting={sort !== null && !ordered}
        onWhole={
          filtered || sort
            ? () => {
                setFilters({});
                setSort(null);
              }
            : null
        }
        undo={undo}
        redo={redo}
        locked={locked}
        panel={panel}
        onPanel={(wanted) => setPanel(panel === wanted ? null : wanted)}
        onAddColumn={() => onColumns([...tab.columns, { id: '', name: `Column ${tab.columns.length + 1}` }])}
        locale={place.locale}
      />
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
        (column) =>
          column.type === 'choice' && (
            <datalist key={column.id} id={`choices-${column.id}`}>
              {column.choices?.map((choice) => (
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
