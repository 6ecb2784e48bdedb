import { Temporal } from 'temporal-polyfill';

/** Days from the first to the last, both counted, "YYYY-MM-DD". */
export interface Period {
  from: string;
  to: string;
}
export const UNITS = ['day', 'week', 'month'] as const;
export type Unit = (typeof UNITS)[number];

const date = (day: string) => Temporal.PlainDate.from(day);

/** How many days it has. */
export const daysIn = ({ from, to }: Period): number => date(from).until(date(to)).days + 1;

/** What a period is compared with: for whole months as many months before it, for all else as many days. */
export function periodBefore({ from, to }: Period): Period {
  const [first, last] = [date(from), date(to)];
  if (first.day === 1 && last.day === last.daysInMonth) {
    const months = (last.year - first.year) * 12 + last.month - first.month + 1;
    return { from: first.subtract({ months }).toString(), to: first.subtract({ days: 1 }).toString() };
  }
  const days = daysIn({ from, to });
  return { from: first.subtract({ days }).toString(), to: first.subtract({ days: 1 }).toString() };
}

/** The first day of the day, week (from Monday, ISO 8601) or month a day is in. */
export function bucketOf(day: string, unit: Unit): string {
  const one = date(day);
  if (unit === 'day') return day;
  return (unit === 'week' ? one.subtract({ days: one.dayOfWeek - 1 }) : one.with({ day: 1 })).toString();
}

/** The first days of all the days, weeks or months of a period, the earliest first. */
export function bucketsOf(period: Period, unit: Unit): string[] {
  const step = { day: { days: 1 }, week: { weeks: 1 }, month: { months: 1 } }[unit];
  const buckets: string[] = [];
  for (let day = bucketOf(period.from, unit); day <= period.to; day = date(day).add(step).toString()) buckets.push(day);
  return buckets;
}

/** Ready periods, by the day it is. */
export const READY_PERIODS = {
  'last-28': 'Last 28 days',
  'this-month': 'This month',
  'last-month': 'Last month',
  'last-90': 'Last 90 days',
  'this-year': 'This year',
} as const;
export type ReadyPeriod = keyof typeof READY_PERIODS;

export function readyPeriod(name: ReadyPeriod, today: string): Period {
  const now = date(today);
  const first = now.with({ day: 1 });
  switch (name) {
    case 'last-28':
      return { from: now.subtract({ days: 27 }).toString(), to: today };
    case 'last-90':
      return { from: now.subtract({ days: 89 }).toString(), to: today };
    case 'this-month':
      return { from: first.toString(), to: today };
    case 'last-month':
      return { from: first.subtract({ months: 1 }).toString(), to: first.subtract({ days: 1 }).toString() };
    case 'this-year':
      return { from: first.with({ month: 1 }).toString(), to: today };
  }
}

/** As wide as it can be drawn and read. */
export const unitFor = (period: Period): Unit =>
  daysIn(period) <= 31 ? 'day' : daysIn(period) <= 400 ? 'week' : 'month';
