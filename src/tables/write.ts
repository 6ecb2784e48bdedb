import { stringify } from 'csv-stringify/sync';
import writeWorkbook from 'write-excel-file/node';
import { guardFormula } from '../core/fields/formula-guard.ts';

/**
 * CSV by RFC 4180 in UTF-8 with a byte-order mark, which spreadsheets need to see that it is UTF-8. Formulas are guarded. `begins` is
 * false for rows that go on behind others.
 */
export const asCsv = (rows: readonly (readonly string[])[], begins = true): string =>
  stringify(
    rows.map((row) => row.map(guardFormula)),
    { bom: begins, record_delimiter: '\r\n', quoted_match: /[\r\n]/ },
  );

/** XLSX with every cell as text: nothing is taken for a number, a date or a formula. */
export const asXlsx = (rows: readonly (readonly string[])[]): Promise<Buffer> =>
  writeWorkbook(rows.map((row) => row.map((value) => (value === '' ? null : { type: String, value })))).toBuffer();
