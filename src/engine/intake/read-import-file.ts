import { columnNames, findHeaderRow } from '../../core/sheets/header-row.ts';
import { type FileColumn, matchColumns } from '../../core/sheets/match-columns.ts';
import type { TableRow } from '../../tables/table.ts';
import type { TableReader } from '../../tables/table-reader.ts';
import { type KnownTab, whichTab } from '../../tables/which-tab.ts';

/** Rows taken together. */
export const READ_BATCH = 1000;

/** How a file is read: `headerRow` undefined where it is to be found, null where there is none. */
export interface FileSettings {
  headerRow?: number | null;
  columns: FileColumn[];
  tab?: KnownTab | null;
}

/** Reads a file row by row, giving what stands below its column names to `write` in batches; `write` is called for empty ones too. */
export async function readImportFile(
  tables: Pick<TableReader, 'tabs' | 'rows'>,
  bytes: Buffer,
  settings: FileSettings,
  write: (rows: TableRow[]) => Promise<void>,
) {
  const tab = whichTab(await tables.tabs(bytes), settings.tab ?? null);
  let { headerRow } = settings;
  let columns: FileColumn[] | null = null;
  let count = 0;
  const take = async (rows: TableRow[]) => {
    if (!columns) {
      if (headerRow === undefined) {
        const at = findHeaderRow(rows.map((row) => row.cells));
        headerRow = at === null ? null : rows[at]!.n;
      }
      const header = rows.find((row) => row.n === headerRow);
      const width = Math.max(header?.cells.length ?? 0, ...rows.slice(0, 200).map((row) => row.cells.length));
      columns = matchColumns([], columnNames(header?.cells ?? null, width));
    }
    const body = rows.filter((row) => row.n > (headerRow ?? 0));
    count += body.length;
    await write(body);
  };
  let batch: TableRow[] = [];
  for await (const rows of tables.rows(bytes, tab?.name ?? null)) {
    batch.push(...rows);
    if (batch.length < READ_BATCH) continue;
    await take(batch);
    batch = [];
  }
  await take(batch);
  return { headerRow: headerRow ?? null, columns: columns ?? [], tab, count };
}
