import { readNumber } from '../fields/read-number.ts';
import { EMAIL_PROBLEMS, readEmail } from '../message/email-address.ts';
import { likelyDomain } from '../message/likely-domain.ts';
import { properName } from '../people/name.ts';
import { PHONE_PROBLEMS, readPhone, storedPhone } from '../people/phone.ts';
import { readDate } from '../time/read-date.ts';
import { isInstant, readInstant } from '../time/read-instant.ts';
import { cleanAddress } from './clean-address.ts';

/** What a tidying may be told: two texts and a number. */
export interface TidyingInput {
  from: string;
  to: string;
  n: number;
  /** ISO 3166-1, for phones and dates. */
  country: string;
}

export interface Tidied {
  value: string;
  /** What could not be tidied, in words; null when all is well. */
  problem: string | null;
}

interface Tidying {
  /** In the menu. */
  label: string;
  takes: { from?: string; to?: string; n?: string };
  apply(value: string, input: TidyingInput): Tidied;
}

const fine = (value: string): Tidied => ({ value, problem: null });
const squeeze = (text: string) => text.normalize('NFC').replace(/\s+/gu, ' ').trim();
/** An empty value stays empty without a word: nothing was typed. */
const unlessEmpty =
  (apply: Tidying['apply']): Tidying['apply'] =>
  (value, input) =>
    value.trim() === '' ? fine(value) : apply(value, input);
const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** What can be done with what people typed: a registry of small functions, each text to text. */
export const TIDYINGS = {
  trim: { label: 'take spaces out', takes: {}, apply: (value) => fine(squeeze(value)) },
  name: { label: 'capitals as names have them', takes: {}, apply: (value) => fine(properName(value)) },
  lower: { label: 'small letters', takes: {}, apply: (value) => fine(value.toLocaleLowerCase('en')) },
  upper: { label: 'capital letters', takes: {}, apply: (value) => fine(value.toLocaleUpperCase('en')) },
  replace: {
    label: 'replace',
    takes: { from: 'this', to: 'by this' },
    apply: (value, { from, to }) =>
      fine(from === '' ? value : value.replace(new RegExp(escaped(from), 'giu'), () => to)),
  },
  cut: {
    label: 'keep only the first',
    takes: { n: 'characters' },
    // By what people see as one character, so that no accent or emoji is cut in half (Unicode UAX #29).
    apply: (value, { n }) =>
      fine(
        [...new Intl.Segmenter('en', { granularity: 'grapheme' }).segment(value)]
          .slice(0, Math.max(0, n))
          .map((segmentData) => segmentData.segment)
          .join(''),
      ),
  },
  pick: {
    label: 'pick from a list',
    takes: { n: 'which, counting from 1', from: 'separated by' },
    apply: unlessEmpty((value, { n, from }) => {
      const item = value.split(from === '' ? ',' : from).at(n > 0 ? n - 1 : n);
      return item === undefined ? { value: '', problem: `there are not ${n} in the list` } : fine(item.trim());
    }),
  },
  number: {
    label: 'as a plain number',
    takes: {},
    apply: unlessEmpty((value) => {
      const read = readNumber(value);
      return read === null ? { value, problem: 'this is not a number' } : fine(String(read));
    }),
  },
  money: {
    label: 'as money, with two places',
    takes: {},
    apply: unlessEmpty((value) => {
      const read = readNumber(value);
      return read === null ? { value, problem: 'this is not an amount' } : fine(read.toFixed(2));
    }),
  },
  date: {
    label: 'as a date, 2026-12-24, with its hour if it has one',
    takes: {},
    apply: unlessEmpty((value, { country }) => {
      const read = readDate(value, country);
      if (read === null) return { value, problem: 'this is not a date' };
      // An instant stays the instant it is; a time without an offset stays the time it is.
      if (isInstant(value)) return fine(value.trim());
      const at = readInstant(value, country, 'UTC');
      return fine(at?.timed ? `${read}T${new Date(at.at).toISOString().slice(11, 16)}` : read);
    }),
  },
  day: {
    label: 'as a day, without an hour',
    takes: {},
    apply: unlessEmpty((value, { country }) => {
      const read = readDate(value, country);
      return read === null ? { value, problem: 'this is not a date' } : fine(read);
    }),
  },
  phone: {
    label: 'as a phone number with its country',
    takes: {},
    apply: unlessEmpty((value, { country }) => {
      const read = readPhone(value, country);
      return read.ok ? fine(storedPhone(read)) : { value, problem: PHONE_PROBLEMS[read.problem] };
    }),
  },
  email: {
    label: 'as an email address, checked',
    takes: {},
    apply: unlessEmpty((value) => {
      const read = readEmail(value);
      if (!read.ok) return { value, problem: EMAIL_PROBLEMS[read.problem] };
      const address = read.address.toLowerCase();
      const meant = likelyDomain(address.slice(address.lastIndexOf('@') + 1));
      return { value: address, problem: meant === null ? null : `did they mean ${meant}?` };
    }),
  },
  address: {
    label: 'as a web address, cleaned',
    takes: {},
    apply: unlessEmpty((value) => {
      const clean = cleanAddress(value);
      return clean === null ? { value, problem: 'this is not a web address' } : fine(clean);
    }),
  },
  default: {
    label: 'if empty, say',
    takes: { to: 'this' },
    apply: (value, { to }) => fine(value.trim() === '' ? to : value),
  },
} satisfies Record<string, Tidying>;

export type TidyingName = keyof typeof TIDYINGS;
export const TIDYING_NAMES = Object.keys(TIDYINGS) as [TidyingName, ...TidyingName[]];
/** The same, each with everything it may take. */
export const tidyingOf = (name: TidyingName): Tidying => TIDYINGS[name];
