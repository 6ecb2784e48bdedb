import { z } from 'zod';
import type { SourceKind } from '../../core/source/source-kind.ts';
import { KnownTab } from '../../tables/which-tab.ts';
import { readRowEntry } from '../row-entry.ts';

export const FileColumnShape = z.object({ id: z.string(), name: z.string(), index: z.number().int() });

const Settings = z.object({
  /** The tab read: by its id, which stays when it is renamed or moved, else by name, else by place. Null for CSV or until a file has come. */
  tab: KnownTab.nullable(),
  /** The row with the column names, counting from 1; null when there is none. */
  headerRow: z.number().int().min(1).nullable(),
  /** Columns known so far. */
  columns: z.array(FileColumnShape),
  /** What makes a row the same row: where it stands, or what is in a column. */
  identity: z.discriminatedUnion('by', [
    z.object({ by: z.literal('position') }),
    z.object({ by: z.literal('column'), column: z.string() }),
  ]),
  /** Rows above this one are left alone, counting from 1 as the file does. */
  fromRow: z.number().int().min(1).default(1),
  /** Where the file lies, when it is fetched: a place, and the path below it; both empty for one that is handed in. */
  connectionId: z.string().default(''),
  path: z.string().max(1000).default(''),
});
export type WorkbookSettings = z.infer<typeof Settings>;

/** A file that is handed in again and again, by hand or by a script; only rows not seen before come through. */
export const workbook: SourceKind<WorkbookSettings> = {
  kind: 'workbook',
  label: 'Workbook file',
  about:
    'An XLSX or CSV file that is uploaded again and again, or lies on a server; only rows not seen before come through.',
  icon: 'file-spreadsheet',
  settings: Settings,
  brings: 'people',
  comesBy: 'file',
  eachCounts: true,
  byColleagues: true,
  changeable: ['headerRow', 'identity', 'fromRow'],
  contentType: 'application/json',
  signedBy: () => ({ way: 'nobody' }),
  read: (raw) => readRowEntry(raw),
};
