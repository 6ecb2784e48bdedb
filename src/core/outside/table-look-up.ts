import { z } from 'zod';

const column = z.string().trim().min(1).max(200);

/** What a view of an outside database is asked: one row by one column. */
export const TableLookUp = z.object({
  /** By which steps name it: made once, and kept when it is called otherwise. */
  key: z.string().regex(/^[a-z0-9_]{1,40}$/),
  label: z.string().trim().min(1, 'Say what is asked for').max(60),
  /** "schema.view" */
  view: z.string().min(1, 'Choose a view').max(200),
  /** The column that is compared with what is given. */
  by: column,
  /** Columns that are given back. */
  gives: z.array(column).min(1, 'Choose at least one column to read').max(30),
  /** Of several rows the one with the highest here; empty for any of them. */
  newestBy: z.string().trim().max(200).default(''),
});
export type TableLookUp = z.infer<typeof TableLookUp>;

const word = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_|_$/g, '')
    .slice(0, 40);

/** Names for columns in templates, each its own: "Opened at" is opened_at. */
export function columnKeys(columns: readonly string[]): { key: string; label: string }[] {
  const taken = new Set<string>();
  return columns.map((label) => {
    const base = word(label) || 'column';
    let key = base;
    for (let n = 2; taken.has(key); n++) key = `${base.slice(0, 36)}_${n}`;
    taken.add(key);
    return { key, label };
  });
}
