import { Temporal } from 'temporal-polyfill';

/** Whom a message is for: in which language, by which clock, and when (milliseconds) it is written. */
export interface Reader {
  locale: string;
  timeZone: string;
  now: number;
}

/** RFC 3339 dates and date-times, whole, with the seconds and the offset left out at will. */
const MACHINE = /^\d{4}-\d{2}-\d{2}(?:[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d{1,9})?)?(?:Z|[+-]\d{2}:?\d{2})?)?$/;

/**
 * A date as a machine writes it, as people do: "Friday 27 November, 16:00". An instant is told by the reader's clock; a time without an offset is theirs
 * as it stands. The year stands there when it is not the year of `now`. Anything else comes back as it is.
 */
export function dateInMessage(value: string, { locale, timeZone, now }: Reader): string {
  const text = value.trim();
  if (!MACHINE.test(text)) return value;
  try {
    const timed = text.length > 10;
    const fixed = /(?:Z|[+-]\d{2}:?\d{2})$/.test(text.slice(10));
    const plain = fixed
      ? Temporal.Instant.from(text.replace(' ', 'T')).toZonedDateTimeISO(timeZone).toPlainDateTime()
      : Temporal.PlainDateTime.from(text.replace(' ', 'T'));
    const thisYear = Temporal.Instant.fromEpochMilliseconds(now).toZonedDateTimeISO(timeZone).year;
    // Written out by the wall clock it was brought to above: no zone may move it again.
    const at = new Date(`${plain.toString({ smallestUnit: 'minute' })}Z`);
    const day = new Intl.DateTimeFormat(locale, {
      timeZone: 'UTC',
      weekday: 'long',
      day: 'numeric',
      month: 'long',
      ...(plain.year === thisYear ? {} : { year: 'numeric' as const }),
    })
      .format(at)
      // British English has no comma behind the day of the week, and data of some years has one.
      .replace(/^(\p{L}+), (\d)/u, locale.startsWith('en-') && locale !== 'en-US' ? '$1 $2' : '$&');
    if (!timed) return day;
    const clock = (hour: 'numeric' | '2-digit') =>
      new Intl.DateTimeFormat(locale, { timeZone: 'UTC', hour, minute: '2-digit' });
    // 09:30 where a day has 24 hours, 9:30 am where it has twice twelve.
    const twelve = clock('numeric').resolvedOptions().hour12 === true;
    return `${day}, ${clock(twelve ? 'numeric' : '2-digit').format(at)}`;
  } catch {
    return value;
  }
}
