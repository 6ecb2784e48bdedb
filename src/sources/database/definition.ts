import { z } from 'zod';
import { flatten } from '../../core/fields/flatten.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom } from '../../core/source/where-from.ts';
import { readBodyAs } from '../body/read-body-as.ts';

const Settings = z.object({
  connectionId: z.string(),
  /** "schema.view". */
  view: z.string().max(200),
  /** The column each row is known by, and the one that only grows with new rows. */
  key: z.string().max(200),
  mark: z.string().max(200),
});
export type DatabaseSettings = z.infer<typeof Settings>;

/** A row as it is kept. */
export const DatabaseRow = z.object({ key: z.string().max(300), row: z.record(z.string(), z.unknown()) });
export type DatabaseRow = z.infer<typeof DatabaseRow>;

/** New rows of a view of the business's own PostgreSQL database. */
export const databaseSource: SourceKind<DatabaseSettings> = {
  kind: 'database',
  label: 'Database',
  about: 'New rows of a view in a PostgreSQL database of your own. Nothing is ever written there.',
  icon: 'database',
  settings: Settings,
  brings: 'people',
  comesBy: 'fetched',
  changeable: [],
  contentType: 'application/json',
  // Rows are typed by colleagues or by programs, not by the people in them.
  byColleagues: true,
  signedBy: () => ({ way: 'nobody' }),
  read: async (raw): Promise<SourceReading> => {
    const read = await readBodyAs(raw, DatabaseRow, 'a row of a database');
    if (!read.ok) return read;
    const flat = flatten(read.data.row);
    if (!flat.ok)
      return {
        ok: false,
        code: flat.problem,
        problem: 'The row has more than 300 fields, or is nested more than 12 deep. Make a view with fewer.',
      };
    return {
      ok: true,
      entries: [{ externalId: read.data.key, fields: flat.fields, whereFrom: findWhereFrom(flat.fields) }],
    };
  },
};
