import { Temporal } from 'temporal-polyfill';

/** Wall clock of an instant. `instant` in milliseconds, `zone` an IANA name. */
export const wallClock = (instant: number, zone: string): Temporal.ZonedDateTime =>
  Temporal.Instant.fromEpochMilliseconds(instant).toZonedDateTimeISO(zone);

/**
 * The instant (milliseconds) of a wall-clock time. On the night the clocks go forward a time that does not exist is taken
 * with the offset before the gap; on the night they go back the first of two counts (RFC 5545 §3.3.5).
 */
export const atWallClock = (date: Temporal.PlainDate, time: string, zone: string): number =>
  date.toZonedDateTime({ timeZone: zone, plainTime: Temporal.PlainTime.from(time) }).epochMilliseconds;

/** The next morning at this time ("HH:MM") by the wall clock of a place, milliseconds. */
export const nextMorning = (instant: number, time: string, zone: string): number =>
  atWallClock(wallClock(instant, zone).toPlainDate().add({ days: 1 }), time, zone);

/** "HH:MM", 00:00 to 23:59. */
export const CLOCK_TIME = /^([01]\d|2[0-3]):[0-5]\d$/;
