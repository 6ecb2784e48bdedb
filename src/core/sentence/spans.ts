import type { Span, SpanUnit } from '../time/span.ts';

const NUMBERS: Record<string, number> = {
  ...{
    a: 1,
    an: 1,
    one: 1,
    two: 2,
    three: 3,
    four: 4,
    five: 5,
    six: 6,
    seven: 7,
    eight: 8,
    nine: 9,
    ten: 10,
    eleven: 11,
  },
  ...{ twelve: 12, fifteen: 15, twenty: 20, thirty: 30, forty: 40, fifty: 50, sixty: 60, ninety: 90 },
  ...{ another: 1, 'a couple of': 2, 'a few': 3 },
};
const UNITS: Record<string, SpanUnit> = {
  ...{ second: 'seconds', sec: 'seconds', minute: 'minutes', min: 'minutes', hour: 'hours', hr: 'hours', h: 'hours' },
  ...{ day: 'days', week: 'weeks', month: 'months' },
};
const NUMBER = Object.keys(NUMBERS)
  .sort((a, b) => b.length - a.length)
  .join('|');
const UNIT = Object.keys(UNITS).join('|');

/** "two days", "half an hour", "a quarter of an hour", "10 min". */
export const SPAN_WORDS = new RegExp(
  `\\b(?:half an? (?:hour|day)|(?:an? )?quarter of an hour|three quarters of an hour|an hour and a half|(?:\\d{1,4}|${NUMBER})[ -]?(?:${UNIT})s?)\\b`,
  'g',
);

export function readSpan(words: string): Span | null {
  if (/^half an? hour$/.test(words)) return { amount: 30, unit: 'minutes' };
  if (/^half an? day$/.test(words)) return { amount: 12, unit: 'hours' };
  if (/^(an? )?quarter of an hour$/.test(words)) return { amount: 15, unit: 'minutes' };
  if (words === 'three quarters of an hour') return { amount: 45, unit: 'minutes' };
  if (words === 'an hour and a half') return { amount: 90, unit: 'minutes' };
  const read = new RegExp(`^(\\d+|${NUMBER})[ -]?(${UNIT})s?$`).exec(words);
  if (!read) return null;
  const amount = NUMBERS[read[1]!] ?? Number(read[1]);
  return amount >= 1 && amount <= 1000 ? { amount, unit: UNITS[read[2]!]! } : null;
}

/** Minutes of a span of minutes or hours; null for a longer one. */
export const minutesOf = ({ amount, unit }: Span): number | null =>
  unit === 'minutes' ? amount : unit === 'hours' ? amount * 60 : null;

/** "9:30", "9.30", "18:00", "9 am", "half past nine" is not read. */
export const CLOCK_WORDS =
  /\b(?:\d{1,2}[:.]\d{2}(?: ?[ap]\.?m\b\.?)?|\d{1,2} ?(?:am|pm|o'clock)|noon|midday)(?![\d:])/g;

/** As "HH:MM". */
export function readClock(words: string): string | null {
  if (words === 'noon' || words === 'midday') return '12:00';
  const read = /^(\d{1,2})(?:[:.](\d{2}))? ?(a\.?m|p\.?m|o'clock)?\.?$/.exec(words);
  if (!read) return null;
  const said = Number(read[1]);
  const half = read[3]?.[0];
  if ((half === 'a' || half === 'p') && (said < 1 || said > 12)) return null;
  const hour = half === 'p' ? (said % 12) + 12 : half === 'a' ? said % 12 : said;
  const minute = Number(read[2] ?? 0);
  return hour > 23 || minute > 59 ? null : `${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}`;
}
