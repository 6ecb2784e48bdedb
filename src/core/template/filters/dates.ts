import { Temporal } from 'temporal-polyfill';
import { isInstant, readInstant } from '../../time/read-instant.ts';
import { type Filter, fine, type Made, type Surroundings, unlessEmpty } from './filter.ts';

const NO_DATE = 'this is not a date';

/** A date as it was written: with a time or without, and whether the time is an instant or only what a clock shows. */
interface Read {
  at: Temporal.ZonedDateTime;
  timed: boolean;
  instant: boolean;
}

function read(value: string, { country, timeZone, now }: Surroundings): Read | null {
  const text = value.trim();
  if (text.toLowerCase() === 'today' || text.toLowerCase() === 'now') {
    if (now === null) return null;
    const at = Temporal.Instant.fromEpochMilliseconds(now).toZonedDateTimeISO(timeZone);
    return { at, timed: text.toLowerCase() === 'now', instant: true };
  }
  const found = readInstant(text, country, timeZone);
  if (!found) return null;
  return {
    at: Temporal.Instant.fromEpochMilliseconds(found.at).toZonedDateTimeISO(timeZone),
    timed: found.timed,
    instant: isInstant(text),
  };
}

/** As it was written, so that what comes after reads it the same way. */
const written = ({ at, timed, instant }: Read): string => {
  if (!timed) return at.toPlainDate().toString();
  if (instant) return at.toInstant().toString({ smallestUnit: 'minute' });
  return at.toPlainDateTime().toString({ smallestUnit: 'minute' });
};

const UNITS = ['minutes', 'hours', 'days', 'weeks', 'months', 'years'] as const;
type Unit = (typeof UNITS)[number];
const isUnit = (typed: string): typed is Unit => (UNITS as readonly string[]).includes(typed);
const UNIT_CHOICES = UNITS.map((unit) => [unit, unit] as const);

function moved(sign: 1 | -1): Filter['apply'] {
  return unlessEmpty((value, [amount = '1', unit = 'days'], surroundings) => {
    const date = read(value, surroundings);
    if (!date) return { value, problem: NO_DATE };
    const many = Math.trunc(Number(amount));
    if (!Number.isFinite(many) || Math.abs(many) > 100_000 || !isUnit(unit))
      return { value, problem: 'say by how many minutes, hours, days, weeks, months or years' };
    // Hours of a day that has no hour are counted from its beginning.
    const timed = date.timed || unit === 'minutes' || unit === 'hours';
    return fine(written({ ...date, at: date.at.add({ [unit]: sign * many }), timed }));
  });
}

/** Whole units from one date to another; before it, less than none. Days by the calendar, hours by the clock. */
function apart(from: Read, to: Read, unit: Unit): string {
  if (unit === 'hours' || unit === 'minutes') {
    const { at } = to;
    return String(Math.trunc(from.at.until(at, { largestUnit: unit })[unit]));
  }
  return String(from.at.toPlainDate().until(to.at.toPlainDate(), { largestUnit: unit })[unit]);
}
function difference(value: string, args: readonly string[], surroundings: Surroundings, back: boolean): Made {
  const [typed = 'today', unit = 'days'] = args;
  const one = read(value, surroundings);
  const other = read(typed, surroundings);
  if (!one) return { value, problem: NO_DATE };
  if (!other) return { value, problem: typed === '' ? 'there is no second date' : `“${typed}” is not a date` };
  if (!isUnit(unit)) return { value, problem: 'say in minutes, hours, days, weeks, months or years' };
  return fine(back ? apart(other, one, unit) : apart(one, other, unit));
}

const FORMATS = {
  day: { words: 'Thursday 24 December', options: { weekday: 'long', day: 'numeric', month: 'long' } },
  full: { words: '24 December 2026', options: { day: 'numeric', month: 'long', year: 'numeric' } },
  short: { words: '24/12/2026', options: { day: '2-digit', month: '2-digit', year: 'numeric' } },
  weekday: { words: 'Thursday', options: { weekday: 'long' } },
  month: { words: 'December', options: { month: 'long' } },
  year: { words: '2026', options: { year: 'numeric' } },
  time: { words: '15:30', options: null },
  iso: { words: '2026-12-24', options: null },
} as const satisfies Record<string, { words: string; options: Intl.DateTimeFormatOptions | null }>;
const isFormat = (typed: string): typed is keyof typeof FORMATS => Object.hasOwn(FORMATS, typed);

function formatted({ at, timed }: Read, format: keyof typeof FORMATS, locale: string): Made {
  if (format === 'iso') return fine(at.toPlainDate().toString());
  if (format === 'time') {
    if (!timed) return { value: '', problem: 'this date has no time' };
    const clock = (hour: 'numeric' | '2-digit') =>
      new Intl.DateTimeFormat(locale, { timeZone: at.timeZoneId, hour, minute: '2-digit' });
    const twelve = clock('numeric').resolvedOptions().hour12 === true;
    return fine(clock(twelve ? 'numeric' : '2-digit').format(at.epochMilliseconds));
  }
  const { options } = FORMATS[format];
  const text = new Intl.DateTimeFormat(locale, { timeZone: at.timeZoneId, ...options }).format(at.epochMilliseconds);
  // British English has no comma behind the day of the week, and data of some years has one.
  return fine(locale.startsWith('en-') && locale !== 'en-US' ? text.replace(/^(\p{L}+), (\d)/u, '$1 $2') : text);
}

export const DATES = {
  date: {
    group: 'dates',
    label: 'written as',
    takes: [
      { label: 'like', takes: Object.entries(FORMATS).map(([key, { words }]) => [key, words] as const), first: 'day' },
    ],
    words: ([format = 'day']) => (isFormat(format) ? `like ${FORMATS[format].words}` : `like ${format}`),
    apply: unlessEmpty((value, [format = 'day'], surroundings) => {
      const date = read(value, surroundings);
      if (!date) return { value, problem: NO_DATE };
      if (!isFormat(format)) return { value, problem: 'there is no such way to write a date' };
      return formatted(date, format, surroundings.locale);
    }),
  },
  later: {
    group: 'dates',
    label: 'later by',
    takes: [
      { label: 'how many', takes: 'number', first: '1' },
      { label: 'of what', takes: UNIT_CHOICES, first: 'days' },
    ],
    words: ([amount = '1', unit = 'days']) => `${amount} ${unit} later`,
    apply: moved(1),
  },
  earlier: {
    group: 'dates',
    label: 'earlier by',
    takes: [
      { label: 'how many', takes: 'number', first: '1' },
      { label: 'of what', takes: UNIT_CHOICES, first: 'days' },
    ],
    words: ([amount = '1', unit = 'days']) => `${amount} ${unit} earlier`,
    apply: moved(-1),
  },
  since: {
    group: 'dates',
    label: 'how long it is from',
    takes: [
      { label: 'this date', takes: 'value', first: 'today' },
      { label: 'in', takes: UNIT_CHOICES, first: 'days' },
    ],
    words: ([other = 'today', unit = 'days']) => `${unit} from ${other}`,
    apply: unlessEmpty((value, args, surroundings) => difference(value, args, surroundings, true)),
  },
  until: {
    group: 'dates',
    label: 'how long it is until',
    takes: [
      { label: 'this date', takes: 'value', first: 'today' },
      { label: 'in', takes: UNIT_CHOICES, first: 'years' },
    ],
    words: ([other = 'today', unit = 'years']) => `${unit} until ${other}`,
    apply: unlessEmpty((value, args, surroundings) => difference(value, args, surroundings, false)),
  },
} satisfies Record<string, Filter>;
