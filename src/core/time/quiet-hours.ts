import { atWallClock, wallClock } from './zone.ts';

/** When messages may go out: from (included) to (not included), "HH:MM". A `to` at or before `from` is on the next day. */
export interface OpenHours {
  from: string;
  to: string;
}

const minutes = (time: string) => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5));

/**
 * Null when a message may go at this instant, or else the instant (milliseconds) from which it may: the next opening by the
 * wall clock of `zone`. With 08:00 to 21:00 these are the hours of 47 CFR §64.1200(c)(1), by the called party's clock.
 */
export function heldUntil(instant: number, hours: OpenHours, zone: string): number | null {
  const clock = wallClock(instant, zone);
  const now = clock.hour * 60 + clock.minute;
  const [from, to] = [minutes(hours.from), minutes(hours.to)];
  if (from === to) return null;
  const open = from < to ? now >= from && now < to : now >= from || now < to;
  if (open) return null;
  const today = clock.toPlainDate();
  return atWallClock(now < from ? today : today.add({ days: 1 }), hours.from, zone);
}
