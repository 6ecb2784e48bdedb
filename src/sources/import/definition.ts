import { z } from 'zod';
import type { SourceKind } from '../../core/source/source-kind.ts';
import { KnownTab } from '../../tables/which-tab.ts';
import { readRowEntry } from '../row-entry.ts';
import { FileColumnShape } from '../workbook/definition.ts';

const Settings = z.object({
  /** The row with the column names, counting from 1; null for none, left out to be looked for. */
  headerRow: z.number().int().min(1).nullable().optional(),
  columns: z.array(FileColumnShape),
  /** The tab read; null for CSV or until the file has been read. */
  tab: KnownTab.nullable().default(null),
});
export type ImportSettings = z.infer<typeof Settings>;

/** People from a file, brought in once. */
export const leadImport: SourceKind<ImportSettings> = {
  kind: 'import',
  label: 'Import',
  about:
    'A file of people (XLSX or CSV, up to 200,000 rows), brought in once: only recorded, or each through a workflow.',
  icon: 'upload',
  settings: Settings,
  brings: 'people',
  comesBy: 'file',
  byColleagues: true,
  once: true,
  changeable: [],
  contentType: 'application/json',
  signedBy: () => ({ way: 'nobody' }),
  read: (raw) => readRowEntry(raw),
};
