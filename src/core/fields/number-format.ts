import { format } from 'numfmt';
import { isDateFormat, serialDate } from './spreadsheet-date.ts';

/** How the cells of a style show their numbers. */
export type CellLook = { as: 'number' } | { as: 'date' } | { as: 'pattern'; code: string };

const NUMBER: CellLook = { as: 'number' };
/** "[h]:mm:ss", the one format for elapsed time without a code of its own: ECMA-376 Part 1 §18.8.30. */
const ELAPSED_ID = 46;

/** A format without what is only written around its digits: text in quotes, escaped characters, colours, conditions, countries. */
const bare = (code: string) =>
  code
    .replace(/"[^"]*"|\\.|[_*]./g, '')
    .replace(/\[(?!h+\]|m+\]|s+\])[^[\]]*\]/gi, '')
    .split(';')[0]!;

/** Hours, minutes or seconds counted on beyond a day, an hour or a minute. */
const isElapsed = (code: string) => /\[(h+|m+|s+)\]/i.test(bare(code));

/**
 * Whether a format makes something else of a number than a number: a postcode of five digits with its zeros (00000), a phone number in
 * groups (000-000-0000). Amounts, shares, fractions and exponents stay the numbers they are, so that they can be reckoned with.
 */
function isMask(code: string): boolean {
  const pattern = bare(code);
  if (/[,.%/?@]|e[+-]|general/i.test(pattern)) return false;
  // A space alone parts thousands in half of the world (# ##0): that is an amount.
  return /00/.test(pattern) || /[0#] ?[-()]+ ?[0#]/.test(pattern);
}

/** What a number format (ECMA-376 Part 1 §18.8.30) makes of the numbers in its cells; `code` is the format's own, when it has one. */
export function lookOf(id: number, code: string | undefined): CellLook {
  if (code === undefined) {
    if (id === ELAPSED_ID) return { as: 'pattern', code: '[h]:mm:ss' };
    return isDateFormat(id, undefined) ? { as: 'date' } : NUMBER;
  }
  if (isElapsed(code)) return { as: 'pattern', code };
  if (isDateFormat(id, code)) return { as: 'date' };
  return isMask(code) ? { as: 'pattern', code } : NUMBER;
}

/** A number in a cell as people see it there. Fifteen digits are all a spreadsheet keeps and shows: 0.1 + 0.2 is 0.3. */
export function numberText(value: number, look: CellLook, system1904 = false): string {
  if (look.as === 'date') {
    const date = serialDate(value, system1904);
    if (date !== null) return date;
  }
  if (look.as === 'pattern') {
    try {
      return format(look.code, value).trim();
    } catch {
      // A pattern that means nothing to anybody: then the number itself.
    }
  }
  return String(Number(value.toPrecision(15)));
}
