import {
  type CountryCode,
  isSupportedCountry,
  type PhoneNumberType,
  parsePhoneNumberFromString,
} from 'libphonenumber-js/max';
import { LRUCache } from 'lru-cache';

/**
 * Telephone numbers as people type them. Source of the numbering rules: ITU-T E.164 (at most 15 digits after the plus) and
 * the metadata of libphonenumber-js. "Possible" is enough to accept a number; "valid" is only told, because number ranges
 * set aside for fiction are possible and not valid.
 */
export type PhoneReading =
  | {
      ok: true;
      e164: string;
      international: string;
      /** As it is dialled within its own country. */
      national: string;
      country: string | null;
      /** The country, or the first of those that share its calling code, as the numbering plan lists them. */
      mainCountry: string | null;
      /** The country calling code, without the plus. */
      callingCode: string;
      valid: boolean;
      /** What the numbering plan says it is; null when it does not say. */
      kind: PhoneNumberType | null;
      mobile: boolean | null;
      /** What is dialled once it is answered; empty for none. */
      extension: string;
    }
  | { ok: false; problem: 'empty' | 'not-a-number' };

export const PHONE_PROBLEMS = {
  empty: 'there is no phone number',
  'not-a-number': 'this is not a phone number that can be dialled',
} as const;

/**
 * Reads one number. `country` is the ISO 3166-1 alpha-2 code assumed when the number has no international prefix.
 * `mobile` is true or false when the numbering plan tells, null when it does not.
 */
export function readPhone(typed: string, country: string): PhoneReading {
  const key = `${country}:${typed}`;
  const kept = recent.get(key);
  if (kept) return kept;
  const reading = parsePhone(typed, country);
  recent.set(key, reading);
  return reading;
}

// Intake, tidying and planning read the same number a moment apart, and parsing is the dearest thing they do.
const recent = new LRUCache<string, PhoneReading>({ max: 500 });

function parsePhone(typed: string, country: string): PhoneReading {
  // Full-width digits and plus signs are the same number (NFKC); "tel:" is RFC 3966.
  // Contact apps put marks around numbers that cannot be seen (U+202A to U+202E, U+2066 and on, soft hyphens): category Cf.
  const text = typed
    .normalize('NFKC')
    .replace(/\p{Cf}/gu, '')
    .trim()
    .replace(/^tel:/i, '');
  if (text === '') return { ok: false, problem: 'empty' };
  if (text.length > 60) return { ok: false, problem: 'not-a-number' };
  const assumed = isSupportedCountry(country) ? (country as CountryCode) : undefined;
  const number = parsePhoneNumberFromString(
    text,
    assumed ? { defaultCountry: assumed, extract: false } : { extract: false },
  );
  if (!number?.isPossible()) return { ok: false, problem: 'not-a-number' };
  // Zeros only are what people type who give none: all of them would be one person.
  if (/^0+$/.test(number.nationalNumber)) return { ok: false, problem: 'not-a-number' };
  // One zero too many behind the code of the country: written out it would be read as another number.
  if (parsePhoneNumberFromString(number.number)?.number !== number.number)
    return { ok: false, problem: 'not-a-number' };
  const kind = once(() => number.getType() ?? null);
  const valid = once(() => number.isValid());
  const international = once(() => number.formatInternational());
  const national = once(() => number.formatNational());
  // What takes a look at the whole numbering plan is told when it is asked: of most numbers nobody asks.
  return {
    ok: true,
    e164: number.number,
    country: number.country ?? null,
    callingCode: number.countryCallingCode,
    extension: number.ext ?? '',
    get international() {
      return international();
    },
    get national() {
      return national();
    },
    get mainCountry() {
      return number.country ?? number.getPossibleCountries()[0] ?? null;
    },
    get valid() {
      return valid();
    },
    get kind() {
      return kind();
    },
    get mobile() {
      const is = kind();
      return is === null ? null : is === 'MOBILE' ? true : is === 'FIXED_LINE_OR_MOBILE' ? null : false;
    },
  };
}

/** Done when it is first asked for, and kept. */
function once<Value>(make: () => Value): () => Value {
  let made: { value: Value } | null = null;
  return () => {
    made ??= { value: make() };
    return made.value;
  };
}

/** A number as it is stored: E.164, with its extension where it has one ("+12125550123 ext. 45"). */
export const storedPhone = ({ e164, extension }: { e164: string; extension: string }): string =>
  extension === '' ? e164 : `${e164} ext. ${extension}`;

/** A stored number as people read it: "+44 7700 900142"; what is no number stays as it is. */
export function phoneWords(stored: string): string {
  const reading = stored.startsWith('+') ? readPhone(stored, '') : null;
  return reading?.ok ? reading.international : stored;
}
