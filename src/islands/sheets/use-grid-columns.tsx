import { useMemo } from 'react';
import type { Column } from 'react-datasheet-grid';
import type { GridRow } from '../../app/sheets/sheet-rows.ts';
import type { TabView } from '../../app/sheets/sheets.ts';
import { shadeOf } from '../../core/sheets/column.ts';
import { fitsColumn } from '../../core/sheets/fits-column.ts';
import { ColumnHead, SheetCell } from './cells.tsx';
import type { SheetPlace, Sort } from './use-order.ts';

interface Input {
  tab: TabView;
  sort: Sort | null;
  /** What is looked for in each column, by its id. */
  filters: Record<string, string>;
  place: SheetPlace;
  /** Nothing may be changed now. */
  fixed: boolean;
  /** Somebody asks for what can be done with a column; stays the same function. */
  onOpen: (columnId: string) => void;
}

/** The columns as the grid wants them: how a cell is shown, shaded, copied, pasted and emptied. */
export function useGridColumns({ tab, sort, filters, place, fixed, onOpen }: Input): Partial<Column<GridRow>>[] {
  return useMemo(
    () =>
      tab.columns.map((column) => {
        return {
          id: column.id,
          title: (
            <ColumnHead
              name={column.name}
              sort={sort?.column === column.id ? (sort.down ? 'down' : 'up') : null}
              filtered={(filters[column.id] ?? '') !== ''}
              onOpen={() => onOpen(column.id)}
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
          disabled: fixed,
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
    [tab.columns, tab.shading, sort, filters, place, fixed, onOpen],
  );
}
