import 'react-datasheet-grid/dist/style.css';
import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import ChevronDown from 'lucide-react/icons/chevron-down';
import Filter from 'lucide-react/icons/filter';
import Plus from 'lucide-react/icons/plus';
import { createContext, useCallback, useContext, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { type Column, createTextColumn, DataSheetGrid, type DataSheetGridRef } from 'react-datasheet-grid';
import type { GridRow, TabView } from '../../app/sheets.ts';
import { type Edits, editsBetween } from './row-edits.ts';

interface Props {
  tab: TabView;
  rows: GridRow[];
  onRows: (rows: GridRow[]) => void;
  onEdits: (edits: Edits) => void;
  onColumns: (columns: { id: string; name: string }[]) => void;
}

type Sort = { column: string; down: boolean } | null;
const textColumn = createTextColumn<string | undefined>({ continuousUpdates: false, deletedValue: '' });

/** The number of each row in the sheet, whatever is in sight; by row id. */
const RowNumbers = createContext<ReadonlyMap<string, number>>(new Map());

function RowNumber({ rowData }: { rowData: GridRow }) {
  return <span className="text-xs text-ink-2">{useContext(RowNumbers).get(rowData.id) ?? ''}</span>;
}

/** Gives the field of a cell the name of its column; the grid has no way to say it. */
function Named({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <span className="contents" ref={(host) => host?.querySelector('input')?.setAttribute('aria-label', name)}>
      {children}
    </span>
  );
}

/** Numbers by size, everything else by the alphabet; empty cells last. */
const collator = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });

/** The grid of one tab: type, paste from a spreadsheet, sort, filter. Sorting and filtering change the view, never the sheet. */
export function Grid({ tab, rows, onRows, onEdits, onColumns }: Props) {
  const [sort, setSort] = useState<Sort>(null);
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

  const numbers = useMemo(() => new Map(rows.map((row, i) => [row.id, i + 1])), [rows]);
  const asked = Object.entries(filters).filter(([, text]) => text.trim() !== '');
  const filtered = asked.length > 0;
  const view = useMemo(() => {
    const wanted = Object.entries(filters).filter(([, text]) => text.trim() !== '');
    let shown = rows;
    if (wanted.length > 0)
      shown = shown.filter((row) =>
        wanted.every(([id, text]) => (row.cells[id] ?? '').toLowerCase().includes(text.trim().toLowerCase())),
      );
    if (sort)
      shown = shown.toSorted((a, b) => {
        const [left, right] = [a.cells[sort.column] ?? '', b.cells[sort.column] ?? ''];
        if (left === '' || right === '') return left === right ? 0 : left === '' ? 1 : -1;
        return collator.compare(left, right) * (sort.down ? -1 : 1);
      });
    return shown;
  }, [rows, filters, sort]);

  const change = useCallback(
    (next: GridRow[]) => {
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
      onRows(whole);
    },
    [rows, view, onRows, onEdits],
  );

  const columns = useMemo<Partial<Column<GridRow>>[]>(
    () =>
      tab.columns.map((column) => {
        const text = textColumn as Partial<Column<string | undefined>>;
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
          component: ({ rowData, setRowData, ...rest }) => {
            const Cell = text.component as React.ComponentType<Record<string, unknown>>;
            return (
              <Named name={column.name}>
                <Cell
                  {...rest}
                  rowData={rowData.cells[column.id] ?? ''}
                  setRowData={(value: string | null) =>
                    setRowData({ ...rowData, cells: { ...rowData.cells, [column.id]: value ?? '' } })
                  }
                />
              </Named>
            );
          },
          columnData: text.columnData,
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
    [tab.columns, sort, filters],
  );

  const column = tab.columns.find((one) => one.id === opened);
  return (
    <div className="flex h-full flex-col px-4 pt-3">
      <div className="mb-2 flex items-center gap-3 text-[13px] text-ink-2">
        <span data-testid="row-count">
          {filtered
            ? `${view.length.toLocaleString('en')} of ${rows.length.toLocaleString('en')} rows`
            : `${rows.length.toLocaleString('en')} ${rows.length === 1 ? 'row' : 'rows'}`}
        </span>
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
        <button
          type="button"
          className="btn btn-ghost btn-xs ml-auto"
          onClick={() => onColumns([...tab.columns, { id: '', name: `Column ${tab.columns.length + 1}` }])}
        >
          <Plus className="size-3.5" aria-hidden="true" />
          Add a column
        </button>
      </div>
      {column && (
        <ColumnBar
          key={column.id}
          name={column.name}
          filter={filters[column.id] ?? ''}
          sort={sort?.column === column.id ? (sort.down ? 'down' : 'up') : null}
          onSort={(to) => setSort(to === null ? null : { column: column.id, down: to === 'down' })}
          onFilter={(value) => setFilters((before) => ({ ...before, [column.id]: value }))}
          onRename={(name) => onColumns(tab.columns.map((one) => (one.id === column.id ? { ...one, name } : one)))}
          onRemove={
            tab.columns.length > 1
              ? () => {
                  setOpened(null);
                  onColumns(tab.columns.filter((one) => one.id !== column.id));
                }
              : null
          }
          onClose={() => setOpened(null)}
        />
      )}
      <div className="min-h-0 grow" ref={host}>
        <RowNumbers.Provider value={numbers}>
          <DataSheetGrid<GridRow>
            ref={grid}
            value={view}
            onChange={change}
            columns={columns}
            height={height}
            rowHeight={34}
            headerRowHeight={38}
            rowKey="id"
            createRow={() => ({ id: crypto.randomUUID(), cells: {} })}
            duplicateRow={({ rowData }) => ({ id: crypto.randomUUID(), cells: { ...rowData.cells } })}
            gutterColumn={{ basis: 48, component: RowNumber }}
            addRowsComponent={({ addRows }) => (
              <button type="button" className="btn btn-ghost btn-sm m-1" onClick={() => addRows(1)}>
                <Plus className="size-4" aria-hidden="true" />
                Add a row
              </button>
            )}
          />
        </RowNumbers.Provider>
      </div>
    </div>
  );
}

function ColumnHead({
  name,
  sort,
  filtered,
  onOpen,
}: {
  name: string;
  sort: 'up' | 'down' | null;
  filtered: boolean;
  onOpen: () => void;
}) {
  return (
    <button
      type="button"
      className="flex h-8 w-full min-w-0 items-center gap-1 px-1 text-left font-semibold"
      onClick={onOpen}
    >
      <span className="truncate">{name}</span>
      {sort === 'up' && <ArrowUp className="size-3.5 shrink-0" aria-label="sorted upwards" />}
      {sort === 'down' && <ArrowDown className="size-3.5 shrink-0" aria-label="sorted downwards" />}
      {filtered && <Filter className="size-3.5 shrink-0" aria-label="filtered" />}
      <ChevronDown className="ml-auto size-3.5 shrink-0 opacity-60" aria-hidden="true" />
    </button>
  );
}

/** What can be done with one column; it stands above the grid, which would cut a menu off and take the keys typed in it. */
function ColumnBar({
  name,
  filter,
  sort,
  onSort,
  onFilter,
  onRename,
  onRemove,
  onClose,
}: {
  name: string;
  filter: string;
  sort: 'up' | 'down' | null;
  onSort: (sort: 'up' | 'down' | null) => void;
  onFilter: (value: string) => void;
  onRename: (name: string) => void;
  onRemove: (() => void) | null;
  onClose: () => void;
}) {
  return (
    <section className="sheet-card mb-2 flex flex-wrap items-end gap-3 px-3 py-2" aria-label={`Column ${name}`}>
      <label className="block">
        <span className="field-label">Name of the column</span>
        <input
          className="input input-sm"
          style={{ width: 180 }}
          defaultValue={name}
          onKeyDown={(event) => {
            if (event.key === 'Enter') event.currentTarget.blur();
          }}
          onBlur={(event) => {
            const typed = event.target.value.trim();
            if (typed !== '' && typed !== name) onRename(typed);
          }}
        />
      </label>
      <label className="block">
        <span className="field-label">Only rows that contain</span>
        <input
          className="input input-sm"
          style={{ width: 180 }}
          value={filter}
          onChange={(event) => onFilter(event.target.value)}
        />
      </label>
      <label className="block">
        <span className="field-label">Order</span>
        <select
          className="select select-sm"
          style={{ width: 170 }}
          value={sort ?? ''}
          onChange={(event) => onSort((event.target.value || null) as 'up' | 'down' | null)}
        >
          <option value="">Their own order</option>
          <option value="up">Sorted upwards</option>
          <option value="down">Sorted downwards</option>
        </select>
      </label>
      {onRemove && (
        <button type="button" className="btn btn-ghost btn-sm text-error" onClick={onRemove}>
          Take the column away
        </button>
      )}
      <button type="button" className="btn btn-ghost btn-sm ml-auto" onClick={onClose}>
        Close
      </button>
    </section>
  );
}
