import { z } from 'zod';
import { columnNames } from '../../core/sheets/header-row.ts';
import { type FileColumn, matchColumns } from '../../core/sheets/match-columns.ts';
import type { FileMark, FilePlaceAccount } from '../../gateways/file-place.ts';
import { columnsOf } from '../../tables/put-rows.ts';
import { MOST_FILE_BYTES, TableProblem, type TableRow } from '../../tables/table.ts';
import { whichTab } from '../../tables/which-tab.ts';
import type { RowEntry } from '../row-entry.ts';
import {
  jsonRaw,
  type SourcePorts,
  type SourcePuller,
  type SourceSetup,
  type Trouble,
  trouble,
} from '../source-module.ts';
import type { WorkbookSettings } from './definition.ts';
import { learnColumns } from './learn-columns.ts';

const Input = z.object({
  name: z.string().trim().min(1, 'Give the source a name').max(100),
  /** Where the file lies; empty for one that is handed in. */
  connectionId: z.union([z.uuid(), z.literal('')]).default(''),
  path: z.string().trim().max(1000).default(''),
  everyMinutes: z.number().int().min(1).max(1440).default(5),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('The place this file lies at is not connected any more. Choose another.');

export const workbookSetup: SourceSetup<Input, WorkbookSettings> = {
  input: Input,
  /** Paths of files at a place; `query` is a folder of it. Of "columns:PATH" what the first row of a file names, none where there is no file yet. */
  async choices(ports, { connectionId, query, of }) {
    const account = await ports.filePlace(connectionId);
    if (!account) return GONE;
    if (of.startsWith('columns:')) return columnsAt(ports, account, of.slice('columns:'.length));
    const files = await ports.places.list(account, query.endsWith('/') ? query.slice(0, -1) : query);
    if (!files.ok) return trouble(files.problem);
    return {
      ok: true,
      next: null,
      choices: files.value.slice(0, 500).map(({ path, folder }) => {
        const written = folder ? `${path}/` : path;
        return { id: written, label: written, live: folder || TABLE_NAME.test(path) };
      }),
    };
  },
  async prepare(ports, { name, connectionId, path, everyMinutes }) {
    const settings = { tab: null, headerRow: null, columns: [], identity: { by: 'position' as const }, fromRow: 1 };
    const prepared = (place: Pick<WorkbookSettings, 'connectionId' | 'path'>, minutes: number) => ({
      ...{ ok: true as const, name, settings: { ...settings, ...place } },
      pull: { everyMinutes: minutes, cursor: null, backlog: 0 },
    });
    if (connectionId === '') return prepared({ connectionId: '', path: '' }, 1);
    const account = await ports.filePlace(connectionId);
    if (!account) return GONE;
    if (path === '') return trouble('Write the path of the file.');
    // Fetched the way it will be: a wrong path or password is told now.
    const file = await ports.places.fetch(account, path, null, MOST_FILE_BYTES);
    if (!file.ok) return trouble(file.problem);
    try {
      await ports.tables.tabs(file.value.bytes!);
    } catch (error) {
      if (error instanceof TableProblem) return trouble(error.message);
      throw error;
    }
    return prepared({ connectionId, path }, everyMinutes);
  },
};

async function columnsAt(ports: SourcePorts, account: FilePlaceAccount, path: string) {
  const file = await ports.places.fetch(account, path, null, MOST_FILE_BYTES);
  if (!file.ok && !file.missing) return trouble(file.problem);
  try {
    const columns = file.ok ? columnsOf(file.value.bytes!) : [];
    return { ok: true as const, next: null, choices: columns.map((name) => ({ id: name, label: name })) };
  } catch (error) {
    if (error instanceof TableProblem) return trouble(error.message);
    throw error;
  }
}

/** A place that cannot be read is the beginning: what came in before is known by its key. */
const Cursor = z
  .object({
    fileId: z.string(),
    row: z.number().int(),
    /** How the file was when it was fetched last. */
    mark: z
      .object({ etag: z.string().nullable(), modified: z.string().nullable(), hash: z.string() })
      .nullable()
      .default(null),
  })
  .nullable()
  .catch(null);
const TABLE_NAME = /\.(csv|tsv|txt|xlsx)$/i;
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
    let mark = cursor?.mark ?? null;
    if (settings.connectionId !== '') {
      const got = await fetched(ports, settings, mark);
      if (!got.ok) {
        yield got;
        return;
      }
      mark = got.mark;
    }
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
          cursor = { fileId: file!.id, row, mark };
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
    yield {
      ...{ ok: true, raws: [], more: false, unfetched: null },
      cursor: mark ? { ...(cursor ?? { fileId: '', row: 0 }), mark } : cursor,
    };
  },
  async newest(ports, settings) {
    if (settings.connectionId !== '') {
      const got = await fetched(ports, settings, null);
      if (!got.ok) return got;
    }
    const file = await ports.files.newest();
    if (!file) return { ok: true, raw: null };
    try {
      let known = settings;
      if (known.columns.length === 0) {
        known = await learnColumns(ports.tables, file.bytes, settings, undefined);
        await ports.files.learn({ ...known });
      }
      const entry = (await peek(ports, file.bytes, known)).entries[0];
      return { ok: true, raw: entry ? jsonRaw(entry) : null };
    } catch (error) {
      if (error instanceof TableProblem) return trouble(error.message);
      throw error;
    }
  },
};

/** Fetches the file where it lies, and keeps it to be read when it is another than at the last look. */
async function fetched(
  ports: SourcePorts,
  { connectionId, path }: WorkbookSettings,
  known: FileMark | null,
): Promise<{ ok: true; mark: FileMark } | Trouble> {
  const account = await ports.filePlace(connectionId);
  if (!account) return GONE;
  const got = await ports.places.fetch(account, path, known, MOST_FILE_BYTES);
  if (!got.ok) return trouble(got.problem);
  if (got.value.bytes) await ports.files.add(path.split('/').at(-1) ?? path, got.value.bytes);
  return { ok: true, mark: got.value.mark };
}

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
