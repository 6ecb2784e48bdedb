import { z } from 'zod';
import { columnKeys } from './table-look-up.ts';

const column = z.string().trim().min(1, 'Give each column a name').max(200);
/** How names of columns and keys of rows are compared. */
export const folded = (name: string) => name.normalize('NFC').trim().toLowerCase();

/** The column that tells rows apart where each time is a row of its own. */
const REFERENCE = 'Reference';

/** A table in a file elsewhere that steps write rows to. */
export const WrittenTable = z
  .object({
    /** By which steps name it: made once, and kept when it is called otherwise. */
    key: z.string().regex(/^[a-z0-9_]{1,40}$/),
    label: z.string().trim().min(1, 'Say what a row of it is').max(60),
    /** Below the place: "camp/entries.csv". */
    path: z.string().trim().min(1, 'Write the path of the file').max(1000),
    /** What is written, by the names in its first row; one that is not there yet is added behind the others. */
    columns: z.array(column).min(1, 'Choose at least one column').max(50),
    /** The column a row is found again by; empty for a row of its own each time. */
    by: z.string().trim().max(200),
  })
  .superRefine(({ columns, by }, told) => {
    const names = columns.map(folded);
    if (new Set(names).size < names.length)
      told.addIssue({ code: 'custom', path: ['columns'], message: 'Two columns have the same name.' });
    if (by !== '' && !names.includes(folded(by)))
      told.addIssue({ code: 'custom', path: ['by'], message: 'A row is found again by one of the columns written.' });
    if (by === '' && names.includes(folded(REFERENCE)))
      told.addIssue({
        code: 'custom',
        path: ['columns'],
        message: `“${REFERENCE}” is filled by itself where each time is a row of its own. Leave it out.`,
      });
  });
export type WrittenTable = z.infer<typeof WrittenTable>;

/** The column a row is found again by, as it is written among the columns. */
export const keyColumn = ({ columns, by }: WrittenTable): string =>
  by === '' ? REFERENCE : columns.find((name) => folded(name) === folded(by))!;

/** What a step fills in, in the order of the columns. */
export const takenBy = ({ columns, by }: WrittenTable): { key: string; label: string; needed: boolean }[] =>
  columnKeys(columns).map(({ key, label }) => ({ key, label, needed: by !== '' && folded(label) === folded(by) }));

/** The cells of a row by column, from what a step filled in. `reference` is made from run and step. */
export function cellsOf(
  table: WrittenTable,
  given: Readonly<Record<string, string>>,
  reference: string,
): Record<string, string> {
  const cells = Object.fromEntries(takenBy(table).map(({ key, label }) => [label, given[key] ?? '']));
  return table.by === '' ? { ...cells, [REFERENCE]: reference } : cells;
}
