import { z } from 'zod';
import { RowFilter } from '../../core/sheets/row-filter.ts';
import type { SourceKind } from '../../core/source/source-kind.ts';
import { readRowEntry } from '../row-entry.ts';

const Settings = z.object({
  sheetId: z.string(),
  tabId: z.string(),
  /** Each row once, or again at each change. */
  when: z.enum(['new', 'changed']),
  /** As the coordinator put it; what counts is the place the row above had then. */
  fromRow: z.number().int().min(1),
  afterPosition: z.number(),
  /** Of a column by its id. */
  filter: RowFilter.nullable(),
});
export type SheetSettings = z.infer<typeof Settings>;

/** Rows of a Pine Bell sheet, typed, pasted or imported. */
export const sheet: SourceKind<SheetSettings> = {
  kind: 'sheet',
  label: 'Sheet',
  about: 'New or changed rows of a sheet you and your colleagues type into.',
  icon: 'sheet',
  settings: Settings,
  brings: 'people',
  comesBy: 'fetched',
  eachCounts: true,
  byColleagues: true,
  changeable: ['when', 'filter'],
  contentType: 'application/json',
  signedBy: () => ({ way: 'nobody' }),
  read: (raw) => readRowEntry(raw),
};
