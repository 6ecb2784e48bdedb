import { Temporal } from 'temporal-polyfill';
import { readInstant } from '../time/read-instant.ts';
import { addSpan } from '../time/span.ts';
import { atWallClock, wallClock } from '../time/zone.ts';
import type { At } from './at.ts';

/** What counting needs to know. Instants in milliseconds. */
export interface Clocks {
  /** When the moment above began. */
  previous: number;
  now: number;
  /** IANA; null when it is not known whose clock the lead lives by. */
  leadZone: string | null;
  businessZone: string;
  country: string;
  /** Days nobody works, "YYYY-MM-DD". */
  holidays: readonly string[];
  field(reference: string): string | null;
}

export type Due = { at: number } | { skip: 'no-date' | 'passed'; text: string };

/** When a moment is due. The first of a sheet is always due at once. */
export function whenDue(at: At, clocks: Clocks): Due {
  const zone = (whose: 'lead' | 'business') =>
    whose === 'lead' ? (clocks.leadZone ?? clocks.businessZone) : clocks.businessZone;
  switch (at.kind) {
    case 'on_arrival':
      return { at: clocks.previous };
    case 'later':
      return { at: addSpan(clocks.previous, at.span, zone('lead')) };
    case 'event':
      return { at: addSpan(clocks.previous, at.within, zone('lead')) };
    case 'time_of_day':
      return { at: timeOfDay(at, clocks, zone(at.whose)) };
    case 'on_date':
      return onDate(at, clocks, zone(at.whose));
  }
}

function timeOfDay(at: Extract<At, { kind: 'time_of_day' }>, clocks: Clocks, zone: string): number {
  let day = wallClock(clocks.previous, zone).toPlainDate();
  const off = (date: Temporal.PlainDate) =>
    at.workingDays && (date.dayOfWeek > 5 || clocks.holidays.includes(date.toString()));
  if (at.day === 'next_day' || atWallClock(day, at.time, zone) <= clocks.previous) day = day.add({ days: 1 });
  // Somebody who marks every day of a year as a holiday still gets an answer.
  for (let tried = 0; off(day) && tried < 366; tried++) day = day.add({ days: 1 });
  return atWallClock(day, at.time, zone);
}

function onDate(at: Extract<At, { kind: 'on_date' }>, clocks: Clocks, zone: string): Due {
  const written = clocks.field(at.field) ?? '';
  const read = readInstant(written, clocks.country, zone);
  if (!read)
    return {
      skip: 'no-date',
      text: written.trim() === '' ? 'There is no date to count from' : `“${written.slice(0, 60)}” is not a date`,
    };
  let when = at.time === null ? read.at : atWallClock(Temporal.PlainDate.from(read.date), at.time, zone);
  if (at.side !== 'on') {
    const direction = at.side === 'before' ? -1 : 1;
    const whole = at.span.unit === 'days' || at.span.unit === 'weeks' || at.span.unit === 'months';
    // Hours before an appointment count from its own time, days before it from the day.
    when = addSpan(whole ? when : read.at, at.span, zone, direction);
  }
  if (when < clocks.now && at.ifPassed === 'skip')
    return { skip: 'passed', text: 'The time for it had passed already' };
  return { at: when };
}
