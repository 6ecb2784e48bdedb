import { getCountry } from 'countries-and-timezones';
import { readPhone } from '../people/phone.ts';
import { PHONE_PREFIXES } from './phone-prefixes.ts';
import { wallClock } from './zone.ts';

/**
 * Every time zone the holder of a phone number may be in, as IANA names; none for what is no international number.
 *
 * By the rules of libphonenumber's PhoneNumberToTimeZonesMapper (from memory): a number bound to a place is looked up by the longest prefix that is
 * on the map, any other by its calling code alone, so that a mobile number of a country with several zones can be in all of them.
 */
export function phoneZones(phone: string): readonly string[] {
  const reading = phone.startsWith('+') ? readPhone(phone, '') : null;
  if (!reading?.ok) return [];
  const digits = reading.e164.slice(1);
  const code = reading.callingCode;
  const bound =
    reading.kind === 'FIXED_LINE' ||
    reading.kind === 'FIXED_LINE_OR_MOBILE' ||
    (reading.kind === 'MOBILE' && BOUND_MOBILES.has(code));
  for (let length = bound ? digits.length : code.length; length >= code.length; length--) {
    const zones = prefixes().get(digits.slice(0, length));
    if (zones) return zones;
  }
  // Not on the map: all that its country keeps, by the time zone database.
  return (reading.mainCountry && getCountry(reading.mainCountry)?.timezones) || [];
}

/** Calling codes whose mobile numbers are bound to a place: Mexico, Argentina, Brazil, Indonesia. Source: libphonenumber's GEO_MOBILE_COUNTRIES, from memory. */
const BOUND_MOBILES = new Set(['52', '54', '55', '62']);

let read: Map<string, readonly string[]> | null = null;
function prefixes(): Map<string, readonly string[]> {
  read ??= new Map(
    PHONE_PREFIXES.trim()
      .split('\n')
      .flatMap((line) => {
        const [zones, all] = line.split(': ');
        const names = zones!.split(' ');
        return all!.split(' ').map((prefix) => [prefix, names] as const);
      }),
  );
  return read;
}

/** The one clock a phone number tells: that of all the zones it may be in, where they go alike. Null for several clocks, and for none. */
export function phoneZone(phone: string): string | null {
  const zones = phoneZones(phone);
  const name = zones.join();
  if (!clocks.has(name)) {
    const reading = readPhone(phone, '');
    const own: readonly string[] =
      reading.ok && reading.mainCountry ? (getCountry(reading.mainCountry)?.timezones ?? []) : [];
    const alike = zones.every((zone) => SAMPLES.every((at) => offset(at, zone) === offset(at, zones[0]!)));
    // Called as its country calls it.
    clocks.set(name, alike ? (zones.find((zone) => own.includes(zone)) ?? zones[0] ?? null) : null);
  }
  return clocks.get(name)!;
}

/** The clock somebody lives by, from their number as it was typed; null where it tells none. `country` is the business's. */
export function leadZone(typed: string, country: string): string | null {
  const reading = readPhone(typed, country);
  return reading.ok ? phoneZone(reading.e164) : null;
}

const clocks = new Map<string, string | null>();
const offset = (at: number, zone: string) => wallClock(at, zone).offsetNanoseconds;
/** The first of each month of ten years: zones that agree on all of them have gone alike for long enough to be taken for one clock. */
const SAMPLES = Array.from({ length: 120 }, (_, month) => Date.UTC(2020, month, 1, 12));
