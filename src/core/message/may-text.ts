import type { PhoneReading } from '../people/phone.ts';

/** Kinds of numbers that cost whoever sends to them, or belong to nobody (libphonenumber's PhoneNumberType). */
const NEVER = new Set(['PREMIUM_RATE', 'SHARED_COST', 'UAN', 'PAGER', 'VOICEMAIL']);

/** Countries whose numbers a business of that country takes for its own: the same networks, another code of ISO 3166-1. Common practice, no source. */
const WITH: Record<string, readonly string[]> = {
  GB: ['GG', 'JE', 'IM'],
  US: ['PR'],
  FI: ['AX'],
  NO: ['SJ'],
  AU: ['CX', 'CC'],
  IT: ['VA', 'SM'],
};

/** Where a business may text before it has chosen: its own country. */
export const homeCountries = (country: string): string[] => [country, ...(WITH[country] ?? [])];

/**
 * Why no text goes to a number: its kind, whatever anybody has set, or its country, which is not among those the business texts. Null when one may
 * go. Numbers of no country (satellite and other international networks, ITU-T E.164 codes 87x, 88x, 97x) are never texted.
 */
export function mayNotText(
  phone: Extract<PhoneReading, { ok: true }>,
  countries: readonly string[] | undefined,
): { code: 'never_texted' | 'other_country'; text: string } | null {
  if (phone.kind !== null && NEVER.has(phone.kind))
    return { code: 'never_texted', text: 'No text: it is a number that costs whoever sends to it' };
  const country = phone.country ?? phone.mainCountry;
  if (country === null)
    return { code: 'never_texted', text: 'No text: it is a number of a network that belongs to no country' };
  if (!countries || countries.includes(country)) return null;
  const name = new Intl.DisplayNames('en', { type: 'region' }).of(country) ?? country;
  return { code: 'other_country', text: `No text: ${name} is not among the countries you text (Settings)` };
}
