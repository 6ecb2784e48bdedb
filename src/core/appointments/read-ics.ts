import ICAL from 'ical.js';
import { Temporal } from 'temporal-polyfill';
import { atWallClock } from '../time/zone.ts';

/** Time somebody has taken, as a calendar file has it. */
export interface TakenTime {
  /** Of a series, "uid#date" of the one time. */
  uid: string;
  title: string;
  startsAt: Date;
  endsAt: Date;
}

export interface CalendarFile {
  times: TakenTime[];
  /** Every series and event the file speaks of, also those that take no time: what is not among the times is off. */
  uids: Set<string>;
}

/** Most times taken of one file, how far ahead and behind a series is followed, and how many of its times are gone through for that. */
const MOST_TIMES = 2000;
const AHEAD_DAYS = 366;
const BEHIND_DAYS = 31;
const MOST_STEPS = 50_000;

/**
 * Reads a calendar file (iCalendar, RFC 5545): what takes time in it, a series as its single times.
 *
 * Times are meant as the file says: in UTC, in a zone of the tz database, or in one the file describes. A time without a zone, in a
 * zone nobody knows, and a whole day are meant where the business is, wherever the server stands. What is cancelled, one time of a
 * series or all, and what is marked as free (TRANSP:TRANSPARENT) takes no time.
 *
 * @throws Whatever the parser throws when it is no calendar.
 */
export function readIcs(text: string, zone: string, now: number): CalendarFile {
  // One calendar or several, one after the other (RFC 5545 §3.4).
  const parsed = ICAL.parse(text) as unknown[];
  const calendars = (typeof parsed[0] === 'string' ? [parsed] : parsed)
    .filter((one) => Array.isArray(one) && one[0] === 'vcalendar')
    .map((one) => new ICAL.Component(one as [string, unknown[], unknown[]]));
  if (calendars.length === 0) throw new Error('There is no calendar in it.');
  const all = (name: string) => calendars.flatMap((calendar) => calendar.getAllSubcomponents(name));
  // The library keeps zones for everybody: those of another file are nobody's business here.
  ICAL.TimezoneService.reset();
  for (const described of all('vtimezone')) ICAL.TimezoneService.register(described);
  const components = all('vevent');
  const series = new Set(
    components
      .filter((component) => !component.hasProperty('recurrence-id'))
      .map((component) => new ICAL.Event(component).uid),
  );
  const file: CalendarFile = { times: [], uids: new Set() };
  let steps = 0;
  const add = (uid: string, component: ICAL.Component, start: ICAL.Time, end: ICAL.Time) => {
    if (takesNone(component)) return;
    const startsAt = new Date(instantOf(start, component, 'dtstart', zone));
    const endsAt = new Date(instantOf(end, component, component.hasProperty('dtend') ? 'dtend' : 'dtstart', zone));
    const title = (new ICAL.Event(component).summary || 'Busy').slice(0, 300);
    if (file.times.length < MOST_TIMES && endsAt > startsAt) file.times.push({ uid, title, startsAt, endsAt });
  };
  for (const component of components) {
    // Without a beginning it takes no time; some programs leave such drafts in their files.
    if (!component.hasProperty('dtstart')) continue;
    const event = new ICAL.Event(component);
    file.uids.add(event.uid);
    if (component.hasProperty('recurrence-id')) {
      // One time of a series is met while going through the series; alone, as an invitation to just that one, it stands for itself.
      if (!series.has(event.uid)) add(`${event.uid}#${event.recurrenceId}`, component, event.startDate, event.endDate);
    } else if (!event.isRecurring()) add(event.uid, component, event.startDate, event.endDate);
    else if (!takesNone(component)) {
      const repeats = event.iterator();
      for (; steps < MOST_STEPS; steps++) {
        const next = repeats.next();
        if (!next) break;
        const at = instantOf(next, component, 'dtstart', zone);
        if (at > now + AHEAD_DAYS * 86_400_000) break;
        // Moved to another day it may still be ahead, so what is long past is only passed over when it is as it was.
        if (at < now - (BEHIND_DAYS + 366) * 86_400_000) continue;
        const { item, startDate, endDate } = event.getOccurrenceDetails(next);
        if (instantOf(endDate, item.component, 'dtstart', zone) > now - BEHIND_DAYS * 86_400_000)
          add(`${event.uid}#${next}`, item.component, startDate, endDate);
      }
    }
  }
  return file;
}

/** RFC 5545 §3.8.1.11 and §3.8.2.7. */
const takesNone = (component: ICAL.Component): boolean =>
  String(component.getFirstPropertyValue('status') ?? '').toUpperCase() === 'CANCELLED' ||
  String(component.getFirstPropertyValue('transp') ?? '').toUpperCase() === 'TRANSPARENT';

const known = new Map<string, boolean>();
/** Whether a name is one of the tz database. */
function isZone(name: string): boolean {
  let is = known.get(name);
  if (is === undefined) {
    try {
      new Intl.DateTimeFormat('en', { timeZone: name });
      is = true;
    } catch {
      is = false;
    }
    if (known.size < 1000) known.set(name, is);
  }
  return is;
}

/** When a time of the file is, in milliseconds since 1970. `property` is where its zone is named. */
function instantOf(time: ICAL.Time, component: ICAL.Component, property: string, zone: string): number {
  const { year, month, day } = time;
  const date = Temporal.PlainDate.from({ year, month, day });
  if (time.isDate) return atWallClock(date, '00:00', zone);
  if (time.zone === ICAL.Timezone.utcTimezone) return time.toUnixTime() * 1000;
  const named = String(component.getFirstProperty(property)?.getFirstParameter('tzid') ?? '');
  const described = time.zone && time.zone !== ICAL.Timezone.localTimezone;
  if (!isZone(named) && described) return time.toUnixTime() * 1000;
  const wall = date.toPlainDateTime({ hour: time.hour, minute: time.minute, second: Math.min(59, time.second) });
  return wall.toZonedDateTime(named !== '' && isZone(named) ? named : zone).epochMilliseconds;
}
