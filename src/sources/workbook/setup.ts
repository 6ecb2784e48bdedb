import { z } from 'zod';
import { columnNames } from '../../core/sheets/header-row.ts';
import { type FileColumn, matchColumns } from '../../core/sheets/match-columns.ts';
import { TableProblem, type TableRow } from '../../tables/table.ts';
import { whichTab } from '../../tables/which-tab.ts';
import type { RowEntry } from '../row-entry.ts';
import { jsonRaw, type SourcePorts, type SourcePuller, type SourceSetup } from '../source-module.ts';
import type { WorkbookSettings } from './definition.ts';

const Input = z.object({ name: z.string().trim().min(1, 'Give the source a name').max(100) });
type Input = z.infer<typeof Input>;

export const workbookSetup: SourceSetup<Input, WorkbookSettings> = {
  input: Input,
  prepare: async (_ports, { name }) => ({
    ok: true,
    name,
    settings: { tab: null, headerRow: null, columns: [], identity: { by: 'position' }, fromRow: 1 },
    pull: { everyMinutes: 1, cursor: null, backlog: 0 },
  }),
};

/** A place that cannot be read is the beginning: what came in before is known by its key. */
const Cursor = z.object({ fileId: z.string(), row: z.number().int() }).nullable().catch(null);
const BATCH = 500;

/** A row of the file as an arrival, by the columns as they stand in this file. */
export function entryOf(
  row: TableRow,
  columns: readonly FileColumn[],
  identity: WorkbookSettings['identity'],
): RowEntry {
  const value = (id: string) => {
    const column = columns.find((column) => column.id === id);
    return column && column.index >= 0 ? (row.cells[column.index] ?? '') : '';
  };
  const key = identity.by === 'column' ? value(identity.column).trim().toLowerCase() : '';
  return {
    // A row without its key has no identity but its place.
    id: key === '' ? `row:${row.n}` : `key:${key.slice(0, 250)}`,
    number: row.n,
    cells: columns.map((column) => ({ key: column.id, label: column.name, value: value(column.id) })),
  };
}

export const workbookPuller: SourcePuller<WorkbookSettings> = {
  async *pull(ports, settings, stored) {
    let cursor = Cursor.parse(stored ?? null);
    for (let file = await ports.files.next(); file; file = await ports.files.next()) {
      const resumeAfter = cursor?.fileId === file.id ? cursor.row : 0;
      try {
        const tab = whichTab(await ports.tables.tabs(file.bytes), settings.tab);
        let columns: FileColumn[] = settings.columns;
        let batch: RowEntry[] = [];
        let rows = 0;
        let fresh = 0;
        let width = 0;
        const troubles: string[] = [];
        const flush = async (row: number, more: boolean) => {
          const seen = await ports.seen(batch.map((entry) => entry.id));
          const raws = batch.filter((entry) => !seen.has(entry.id)).map(jsonRaw);
          batch = [];
          fresh += raws.length;
          cursor = { fileId: file!.id, row };
          return { ok: true as const, raws, cursor, more, unfetched: null };
        };
        // Read to its end once before anything of it is taken: a file that breaks off in the middle is refused whole.
        for await (const _ of ports.tables.rows(file.bytes, tab?.name ?? null));
        let last = 0;
        for await (const found of ports.tables.rows(file.bytes, tab?.name ?? null))
          for (const row of found) {
            last = row.n;
            if (row.n === settings.headerRow) {
              columns = matchColumns(settings.columns, columnNames(row.cells, row.cells.length));
              continue;
            }
            if (row.n < Math.max(settings.fromRow, (settings.headerRow ?? 0) + 1)) continue;
            if (row.cells.length > width && settings.headerRow === null) {
              width = row.cells.length;
              columns = matchColumns(settings.columns, columnNames(null, width));
            }
            rows += 1;
            if (row.trouble) troubles.push(row.trouble);
            if (row.n <= resumeAfter) continue;
            batch.push(entryOf(row, columns, settings.identity));
            if (batch.length >= BATCH) yield await flush(row.n, true);
          }
        yield await flush(last, true);
        await ports.files.finish(file.id, { state: 'read', problem: troubleWords(troubles), rows, fresh });
        await ports.files.learn({ ...settings, tab, columns });
      } catch (error) {
        if (!(error instanceof TableProblem)) throw error;
        // The file is kept and told about; the ones after it are not held up.
        await ports.files.finish(file.id, { state: 'refused', problem: error.message, rows: 0, fresh: 0 });
      }
    }
    yield { ok: true, raws: [], cursor, more: false, unfetched: null };
  },
  async newest(ports, settings) {
    const file = await ports.files.newest();
    if (!file) return { ok: true, raw: null };
    const entry = (await peek(ports, file.bytes, settings)).entries[0];
    return { ok: true, raw: entry ? jsonRaw(entry) : null };
  },
};

/** What to look at in a file that was read: cells whose formulas gave nothing. */
export function troubleWords(troubles: readonly string[]): string | null {
  if (troubles.length === 0) return null;
  const more = troubles.length - 3;
  return `${troubles.slice(0, 3).join('. ')}${more > 0 ? `. The same in ${more} more rows` : ''}. These cells were taken as empty.`;
}

/** The first rows of a file, read by these settings. */
export async function peek(
  ports: SourcePorts,
  bytes: Uint8Array,
  settings: WorkbookSettings,
): Promise<{ entries: RowEntry[]; columns: FileColumn[] }> {
  const tab = whichTab(await ports.tables.tabs(bytes), settings.tab);
  const rows: TableRow[] = [];
  for await (const batch of ports.tables.rows(bytes, tab?.name ?? null)) {
    rows.push(...batch);
    if (rows.length >= 60) break;
  }
  const header = rows.find((row) => row.n === settings.headerRow);
  const body = rows.filter((row) => row.n > (settings.headerRow ?? 0) && row.n >= settings.fromRow);
  const width = Math.max(0, ...rows.map((row) => row.cells.length));
  const columns = matchColumns(
    settings.columns,
    columnNames(header?.cells ?? null, header ? header.cells.length : width),
  );
  return { entries: body.slice(0, 50).map((row) => entryOf(row, columns, settings.identity)), columns };
}
