import { getCountry } from 'countries-and-timezones';
import { readPhone } from '../people/phone.ts';

/**
 * The time zone a phone number tells: the one its country keeps, by the time zone database. Null for a country with several,
 * for a number of no country, and for no number: there the business's own clock counts.
 */
export function phoneZone(phone: string): string | null {
  const reading = phone.startsWith('+') ? readPhone(phone, '') : null;
  const country = reading?.ok && reading.mainCountry ? getCountry(reading.mainCountry) : null;
  if (!country) return null;
  const zones = country.timezones;
  return zones.length === 1 ? zones[0]! : null;
}
