import { phoneZones } from './phone-zone.ts';
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

/**
 * The same for somebody who may be in any of these zones: a message goes only when the hours have begun in all of them. Where there is no such
 * time in the next three days (hours too narrow for zones too far apart), it goes when they have begun in as many as ever are open together.
 */
export function heldInAll(instant: number, hours: OpenHours, zones: readonly string[]): number | null {
  const shut = (at: number) => zones.filter((zone) => heldUntil(at, hours, zone) !== null).length;
  let best: { at: number; shut: number } | null = null;
  // Only where the hours begin somewhere can there be more open than a moment before.
  const openings = zones.flatMap((zone) => {
    const today = wallClock(instant, zone).toPlainDate();
    return [0, 1, 2, 3].map((days) => atWallClock(today.add({ days }), hours.from, zone));
  });
  for (const at of [instant, ...openings.filter((opening) => opening > instant).sort((a, b) => a - b)]) {
    const n = shut(at);
    if (n === 0) return at === instant ? null : at;
    if (!best || n < best.shut) best = { at, shut: n };
  }
  return !best || best.at === instant ? null : best.at;
}

/** Until when a message to this person is held, by every clock their number may keep; by `otherwise` for a number that tells none. */
export function heldFor(instant: number, hours: OpenHours, phone: string, otherwise: string): number | null {
  const zones = phoneZones(phone);
  return heldInAll(instant, hours, zones.length > 0 ? zones : [otherwise]);
}
