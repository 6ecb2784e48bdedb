import { columnNames, findHeaderRow } from '../../core/sheets/header-row.ts';
import { matchColumns } from '../../core/sheets/match-columns.ts';
import type { TableRow } from '../../tables/table.ts';
import type { TableReader } from '../../tables/table-reader.ts';
import { whichTab } from '../../tables/which-tab.ts';
import type { WorkbookSettings } from './definition.ts';

/** So many rows are looked at for the one with the names. */
const LOOKED_AT = 60;

/** Finds the header and the columns of a file; `headerRow` is undefined to look for it. */
export async function learnColumns(
  tables: TableReader,
  bytes: Uint8Array,
  settings: WorkbookSettings,
  headerRow: number | null | undefined,
): Promise<WorkbookSettings> {
  const tab = whichTab(await tables.tabs(bytes), settings.tab);
  const rows: TableRow[] = [];
  for await (const batch of tables.rows(bytes, tab?.name ?? null)) {
    rows.push(...batch);
    if (rows.length >= LOOKED_AT) break;
  }
  const guessed = findHeaderRow(rows.map((row) => row.cells));
  const at = headerRow === undefined ? (guessed === null ? null : rows[guessed]!.n) : headerRow;
  const header = rows.find((row) => row.n === at);
  const width = header ? header.cells.length : Math.max(0, ...rows.map((row) => row.cells.length));
  return { ...settings, tab, headerRow: at, columns: matchColumns([], columnNames(header?.cells ?? null, width)) };
}
