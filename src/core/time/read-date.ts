import { parse } from 'date-fns/parse';

/** Countries that write the month before the day. Common practice (CLDR short dates), no standard. */
const MONTH_FIRST = new Set(['US', 'PH', 'PW', 'FM', 'MH', 'AS', 'GU', 'PR', 'VI', 'UM']);

const ISO = ['yyyy-MM-dd', 'yyyy/M/d', 'yyyy.M.d', 'yyyyMMdd'];
const NAMED = ['d MMM yyyy', 'd MMMM yyyy', 'MMM d yyyy', 'MMMM d yyyy', 'd MMM yy', 'd-MMM-yyyy', 'd-MMM-yy'];
const separators = (order: string) =>
  ['/', '.', '-'].flatMap((mark) => [`${order}yyyy`, `${order}yy`].map((f) => f.replaceAll('~', mark)));
const DAY_FIRST = separators('d~M~');
const MONTHS_FIRST = separators('M~d~');

/**
 * A date as people write it, as "YYYY-MM-DD", or null. What may come after it (a time, a zone) is left out; days of the week
 * and "1st", "2nd" are understood in English. `country` (ISO 3166-1) says whether 03/04 is March or April.
 */
export function readDate(typed: string, country: string): string | null {
  const text = typed
    .trim()
    .replace(/^(mon|tues?|wed(nes)?|thu(rs)?|fri|satur|sat|sun)(day)?\.?,?\s+/i, '')
    .replace(/(\d)(st|nd|rd|th)\b/gi, '$1')
    .replace(/\bsept\b/gi, 'Sep')
    .replace(/[,\s]+/g, ' ')
    .replace(/ (?:at )?(?:\d{1,2}[:.]\d{2}|\d{1,2} ?[ap]m\b).*$/i, '')
    .replace(/T\d{2}:?\d{2}.*$/, '')
    .replace(/\s+/g, ' ')
    .trim();
  if (text === '' || text.length > 40) return null;
  const formats = [
    ...ISO,
    ...(MONTH_FIRST.has(country) ? [...MONTHS_FIRST, ...DAY_FIRST] : [...DAY_FIRST, ...MONTHS_FIRST]),
    ...NAMED,
  ];
  for (const format of formats) {
    // Two digits mean a year near ours; four must be four, or "12/03/26" would be the year 26.
    if (format.includes('yyyy') && !/\d{4}/.test(text)) continue;
    if (!format.includes('yyyy') && /\d{4}/.test(text)) continue;
    const read = parse(text, format, new Date(2000, 0, 1));
    if (!Number.isNaN(read.getTime()) && read.getFullYear() >= 1800 && read.getFullYear() < 2300) {
      const pad = (n: number) => String(n).padStart(2, '0');
      return `${read.getFullYear()}-${pad(read.getMonth() + 1)}-${pad(read.getDate())}`;
    }
  }
  return null;
}
