import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import ChevronDown from 'lucide-react/icons/chevron-down';
import Filter from 'lucide-react/icons/filter';
import Plus from 'lucide-react/icons/plus';
import { createContext, useContext } from 'react';
import { type CellProps, type Column, createTextColumn } from 'react-datasheet-grid';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import type { SheetColumn } from '../../core/sheets/column.ts';
import { TICKED } from '../../core/sheets/fits-column.ts';

const textColumn = createTextColumn<string | undefined>({ continuousUpdates: false, deletedValue: '' });

/** The number of each row in the sheet, by row id, where they stand in another order; null where they stand in their own. */
export const RowNumbers = createContext<ReadonlyMap<string, number> | null>(null);

export const text = textColumn as Partial<Column<string | undefined>>;
const TextCell = text.component as React.ComponentType<Record<string, unknown>>;

export function RowNumber({ rowData, rowIndex }: { rowData: GridRow; rowIndex: number }) {
  const numbers = useContext(RowNumbers);
  return <span className="text-xs text-ink-2">{numbers ? (numbers.get(rowData.id) ?? '') : rowIndex + 1}</span>;
}

/** Gives the field of a cell the name of its column, and what can be chosen; the grid has no way to say it. */
export function Named({ column, children }: { column: SheetColumn; children: React.ReactNode }) {
  return (
    <span
      className="contents"
      ref={(host) => {
        const input = host?.querySelector('input');
        input?.setAttribute('aria-label', column.name);
        if (column.type === 'choice') input?.setAttribute('list', `choices-${column.id}`);
      }}
    >
      {children}
    </span>
  );
}

/** A cell as its column wants it. One component for all: the grid makes cells anew whose component is another. */
export function SheetCell({ rowData, setRowData, columnData: column, ...rest }: CellProps<GridRow, SheetColumn>) {
  const set = (value: string) => setRowData({ ...rowData, cells: { ...rowData.cells, [column.id]: value } });
  const value = rowData.cells[column.id] ?? '';
  if (column.type === 'tick')
    return (
      <input
        type="checkbox"
        className="checkbox checkbox-xs mx-auto"
        tabIndex={-1}
        aria-label={column.name}
        checked={value.trim().toLowerCase() === TICKED}
        onChange={(event) => set(event.target.checked ? TICKED : '')}
      />
    );
  return (
    <Named column={column}>
      <TextCell
        {...rest}
        columnData={text.columnData}
        rowData={value}
        setRowData={(typed: string | null) => set(typed ?? '')}
      />
    </Named>
  );
}

export function AddRow({ addRows }: { addRows: (count?: number) => void }) {
  return (
    <button type="button" className="btn btn-ghost btn-sm m-1" onClick={() => addRows(1)}>
      <Plus className="size-4" aria-hidden="true" />
      Add a row
    </button>
  );
}

export function ColumnHead({
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
