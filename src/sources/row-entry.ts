import { z } from 'zod';
import { type Field, storableText } from '../core/fields/field.ts';
import type { RawArrival, SourceReading } from '../core/source/source-kind.ts';
import { findWhereFrom } from '../core/source/where-from.ts';
import { readBodyAs } from './body/read-body-as.ts';

/** A row of a sheet or a workbook, as it is kept as an arrival. */
export const RowEntry = z.object({
  /** What tells it from other rows of the source, and from other states of itself where those count. */
  id: z.string().min(1).max(300),
  /** Where it stood when it came, counting from 1. */
  number: z.number().int(),
  cells: z.array(z.object({ key: z.string(), label: z.string(), value: z.string() })).max(300),
});
export type RowEntry = z.infer<typeof RowEntry>;

export async function readRowEntry(raw: RawArrival): Promise<SourceReading> {
  const read = await readBodyAs(raw, RowEntry, 'a row');
  if (!read.ok) return read;
  const fields: Field[] = read.data.cells.map((cell) => ({
    key: storableText(cell.key),
    label: storableText(cell.label),
    value: storableText(cell.value),
  }));
  return { ok: true, entries: [{ externalId: read.data.id, fields, whereFrom: findWhereFrom(fields) }] };
}
