import { Temporal } from 'temporal-polyfill';
import { readDate } from './read-date.ts';
import { atWallClock } from './zone.ts';

const CLOCK =
  /(?:^|[T\s])(?:at\s+)?(?:(\d{1,2})[:.](\d{2})(?::\d{2}(?:\.\d+)?)?\s*(am|pm)?|(\d{1,2})\s*(am|pm))(?![\d.])/i;
const OFFSET = /(Z|[+-]\d{2}:?\d{2})$/;

/** Whether a text is a date and time with its offset, as machines write it (RFC 3339). */
export const isInstant = (text: string): boolean =>
  /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}/.test(text.trim()) && OFFSET.test(text.trim());

/**
 * A date, with or without a time, as people and machines write it: an instant in milliseconds and whether a time was said.
 * Without an offset (RFC 3339 §5.6) the time is by the wall clock of `zone`; without a time it is the start of the day.
 */
export function readInstant(
  typed: string,
  country: string,
  zone: string,
): { at: number; date: string; timed: boolean } | null {
  const text = typed.trim();
  if (/^\d{4}-\d{2}-\d{2}T/.test(text) && OFFSET.test(text)) {
    try {
      const at = Temporal.Instant.from(text).epochMilliseconds;
      return { at, date: Temporal.Instant.from(text).toZonedDateTimeISO(zone).toPlainDate().toString(), timed: true };
    } catch {
      return null;
    }
  }
  const date = readDate(text, country);
  if (date === null) return null;
  const clock = CLOCK.exec(text);
  let time = '00:00';
  if (clock) {
    const half = (clock[3] ?? clock[5])?.toLowerCase();
    const hour = (Number(clock[1] ?? clock[4]) % (half ? 12 : 24)) + (half === 'pm' ? 12 : 0);
    time = `${String(hour).padStart(2, '0')}:${clock[2] ?? '00'}`;
  }
  return { at: atWallClock(Temporal.PlainDate.from(date), time, zone), date, timed: clock !== null };
}
