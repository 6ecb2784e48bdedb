import { Temporal } from 'temporal-polyfill';

/** Countries that write the month before the day. Common practice (CLDR short dates), no standard. */
const MONTH_FIRST = new Set(['US', 'PH', 'PW', 'FM', 'MH', 'AS', 'GU', 'PR', 'VI', 'UM']);
export const monthFirst = (country: string): boolean => MONTH_FIRST.has(country);
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const NAMES = /^(?:january|february|march|april|may|june|july|august|september|october|november|december)$/;

const YEAR_FIRST = /^(?<year>\d{4})(?<mark>[-/.])(?<month>\d{1,2})\k<mark>(?<day>\d{1,2})$/;
const RUN_TOGETHER = /^(?<year>\d{4})(?<month>\d{2})(?<day>\d{2})$/;
const YEAR_LAST = /^(?<one>\d{1,2})(?<mark>[-/.])(?<two>\d{1,2})\k<mark>(?<year>\d{4}|\d{2})$/;
const DAY_AND_NAME = /^(?<day>\d{1,2})(?<mark>[- ])(?<name>[a-z]+)\.?\k<mark>(?<year>\d{4}|\d{2})$/i;
const NAME_AND_DAY = /^(?<name>[a-z]+)\.? (?<day>\d{1,2}) (?<year>\d{4})$/i;

/** 1 for "Jan" and "january"; 0 for what is no month. */
function monthOf(name: string): number {
  const lower = name.toLowerCase();
  return lower.length === 3 || NAMES.test(lower) ? MONTHS.indexOf(lower.slice(0, 3)) + 1 : 0;
}

/** Two digits are a year from 1950 to 2049. */
const yearOf = (digits: string): number =>
  digits.length === 4 ? Number(digits) : Number(digits) + (Number(digits) < 50 ? 2000 : 1900);

function made(year: number, month: number, day: number): string | null {
  if (year < 1800 || year >= 2300) return null;
  try {
    return Temporal.PlainDate.from({ year, month, day }, { overflow: 'reject' }).toString();
  } catch {
    return null;
  }
}

/**
 * A date as people write it, as "YYYY-MM-DD", or null. What may come after it (a time, a zone) is left out; days of the week
 * and "1st", "2nd" are understood in English. `country` (ISO 3166-1) says whether 03/04 is March or April; where only the other way makes a date,
 * that is meant.
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
  const whole = (YEAR_FIRST.exec(text) ?? RUN_TOGETHER.exec(text))?.groups;
  if (whole) return made(Number(whole.year), Number(whole.month), Number(whole.day));
  const named = (DAY_AND_NAME.exec(text) ?? NAME_AND_DAY.exec(text))?.groups;
  if (named) return made(yearOf(named.year!), monthOf(named.name!), Number(named.day));
  const parts = YEAR_LAST.exec(text)?.groups;
  if (!parts) return null;
  const [year, one, two] = [yearOf(parts.year!), Number(parts.one), Number(parts.two)];
  return monthFirst(country)
    ? (made(year, one, two) ?? made(year, two, one))
    : (made(year, two, one) ?? made(year, one, two));
}
