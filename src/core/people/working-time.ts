import { Temporal } from 'temporal-polyfill';
import { z } from 'zod';
import { atWallClock, CLOCK_TIME, wallClock } from '../time/zone.ts';

const Clock = z.string().regex(CLOCK_TIME, 'Write the time as 09:00');

/** Days somebody is off beside those of the week, first and last. */
const DaysOff = z
  .object({ from: z.iso.date('Choose the first day off'), to: z.iso.date('Choose the last day off') })
  .refine(({ from, to }) => from <= to, 'The last day off is before the first');

/** When somebody works, by the business's clock. Where none is kept they work always. */
export const WorkingTime = z.object({
  /** Monday first; null for a day nobody works. */
  week: z
    .array(
      z
        .object({ from: Clock, to: Clock })
        .refine(({ from, to }) => from < to, 'The end of a day is after its beginning')
        .nullable(),
    )
    .length(7)
    .refine((week) => week.some((day) => day !== null), 'Choose one day at least'),
  off: z.array(DaysOff).max(100, 'So many holidays are enough; take out those that are over'),
});
export type WorkingTime = z.infer<typeof WorkingTime>;

/** Nobody is off for longer than this and still told of anything; days. */
const FARTHEST = 366;

const hoursOn = (working: WorkingTime, day: Temporal.PlainDate): { from: string; to: string } | null => {
  const date = day.toString();
  return working.off.some(({ from, to }) => from <= date && date <= to) ? null : working.week[day.dayOfWeek - 1]!;
};

/** Whether somebody works on a day, "YYYY-MM-DD". */
export const worksOn = (working: WorkingTime | null | undefined, day: string): boolean =>
  !working || hoursOn(working, Temporal.PlainDate.from(day)) !== null;

/**
 * When somebody who does not work at `now` works again; null when they do, or will not within a year.
 *
 * @param now milliseconds
 * @param zone IANA
 */
export function worksAgain(working: WorkingTime | null | undefined, now: number, zone: string): number | null {
  if (!working) return null;
  const today = wallClock(now, zone).toPlainDate();
  for (let n = 0; n <= FARTHEST; n++) {
    const day = today.add({ days: n });
    const hours = hoursOn(working, day);
    if (!hours) continue;
    const from = atWallClock(day, hours.from, zone);
    if (now < from) return from;
    if (now < atWallClock(day, hours.to, zone)) return null;
  }
  return null;
}

/** How well a moment suits somebody who could be given something: 2 at work, 1 at work later or earlier that day, 0 off. */
export function suits(working: WorkingTime | null | undefined, now: number, zone: string): 0 | 1 | 2 {
  if (
    !working ||
    (worksOn(working, wallClock(now, zone).toPlainDate().toString()) && worksAgain(working, now, zone) === null)
  )
    return 2;
  return worksOn(working, wallClock(now, zone).toPlainDate().toString()) ? 1 : 0;
}
