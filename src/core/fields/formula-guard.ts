/**
 * A spreadsheet takes a cell that begins like this for a formula (OWASP, "CSV Injection"). Numbers and phone numbers begin so
 * too and are harmless.
 */
// Some programs pass over white space before it.
const DANGEROUS = /^(?:[=+\-@\t\r\n＝＋－＠]|\s+[=+\-@＝＋－＠])/;
const HARMLESS = /^[+-]?[\d\s().,/-]+$/;
const GUARDED = /^'+(?:[=+\-@\t\r\n＝＋－＠]|\s+[=+\-@＝＋－＠])/;

/** The cell as it is written to a CSV file: one that could be taken for a formula stands behind an apostrophe. */
export const guardFormula = (cell: string): string =>
  (DANGEROUS.test(cell) && !HARMLESS.test(cell)) || GUARDED.test(cell) ? `'${cell}` : cell;

/** Undoes guardFormula, so that what is exported comes back as it was. */
export const unguardFormula = (cell: string): string => (GUARDED.test(cell) ? cell.slice(1) : cell);
