import { readNumber } from '../fields/read-number.ts';
import { readEmail } from '../message/email-address.ts';
import { readPhone } from '../people/phone.ts';
import { readInstant } from '../time/read-instant.ts';
import type { Condition, Test } from './condition.ts';
import { partsOf } from './condition.ts';

/** What a condition is asked of. */
export interface Known {
  /** The value of a field by its reference; null when there is no such field. */
  value(reference: string): string | null;
  country: string;
  timeZone: string;
  /** Milliseconds. */
  now: number;
  tags: readonly string[];
  /** Ids of the lists they are on. */
  memberOf: readonly string[];
  consent: Readonly<Record<string, string>>;
  /** Answers to questions that only the database can answer, by `factKey`. */
  facts: Readonly<Record<string, boolean>>;
}

/** One question with its answer and the value compared, for showing why. */
export interface Compared {
  test: Test;
  holds: boolean;
  /** What was found; null when the field is missing. */
  found: string | null;
}

export interface Verdict {
  holds: boolean;
  compared: Compared[];
}

/** A question only a list or the database can answer; asked before a condition is evaluated. */
export type FactAsked = { kind: 'in_sheet'; column: string; value: string } | { kind: 'throw_away'; domain: string };

/** What has to be known before this question can be answered of this value; null for most questions. */
export function factOf(test: Test, found: string): FactAsked | null {
  if (test.test === 'in_sheet' || test.test === 'not_in_sheet')
    return found.trim() === '' ? null : { kind: 'in_sheet', column: test.value, value: plain(found) };
  if (test.test !== 'throw_away') return null;
  const email = readEmail(found);
  if (!email.ok) return null;
  return { kind: 'throw_away', domain: email.address.slice(email.address.lastIndexOf('@') + 1).toLowerCase() };
}

/** The name under which a fact is kept. */
export const factKey = (asked: FactAsked): string =>
  asked.kind === 'in_sheet' ? `in_sheet:${asked.column}:${asked.value}` : `throw_away:${asked.domain}`;

const isFact = (test: Test, found: string, known: Known): boolean => {
  const asked = factOf(test, found);
  return asked !== null && known.facts[factKey(asked)] === true;
};

/** Without regard to case, outer spaces, and how an accent is written. */
export const plain = (text: string): string =>
  text.normalize('NFC').trim().replace(/\s+/gu, ' ').toLocaleLowerCase('en');

export const linesOf = (text: string): string[] =>
  text
    .split(/[\n;]/)
    .map((line) => line.trim())
    .filter(Boolean);

/**
 * Whether a condition holds, with every value compared. A missing field is empty: it is, contains, is greater than and is
 * before nothing, so that what the sample lacks never lets a message out by mistake. "is not" and its like hold for it.
 */
export function evaluate(condition: Condition, known: Known): Verdict {
  if (!('test' in condition)) {
    const parts = partsOf(condition).map((part) => evaluate(part, known));
    const holds =
      parts.length === 0 || ('all' in condition ? parts.every((part) => part.holds) : parts.some((part) => part.holds));
    return { holds, compared: parts.flatMap((part) => part.compared) };
  }
  const found = condition.field === '' ? null : known.value(condition.field);
  const holds = answer(condition, found ?? '', known);
  return { holds, compared: [{ test: condition, holds, found }] };
}

/** Whether a condition holds when each of its questions is answered by `holds`. An empty group lets everybody through. */
export function combine(condition: Condition, holds: (test: Test) => boolean): boolean {
  if ('test' in condition) return holds(condition);
  const parts = partsOf(condition);
  if (parts.length === 0) return true;
  return 'all' in condition ? parts.every((part) => combine(part, holds)) : parts.some((part) => combine(part, holds));
}

function answer(test: Test, found: string, known: Known): boolean {
  const fold = test.exact ? (text: string) => text : plain;
  const [left, right] = [fold(found), fold(test.value)];
  switch (test.test) {
    case 'is':
      return left === right;
    case 'is_not':
      return left !== right;
    case 'contains':
      return right !== '' && left.includes(right);
    case 'contains_not':
      return right === '' || !left.includes(right);
    case 'starts':
      return right !== '' && left.startsWith(right);
    case 'ends':
      return right !== '' && left.endsWith(right);
    case 'one_of':
      return linesOf(test.value).some((line) => fold(line) === left);
    case 'none_of':
      return !linesOf(test.value).some((line) => fold(line) === left);
    case 'filled':
      return found.trim() !== '';
    case 'empty':
      return found.trim() === '';
    case 'greater':
      return number(found, test.value, (a, b) => a > b);
    case 'less':
      return number(found, test.value, (a, b) => a < b);
    case 'between':
      return number(found, test.value, (a, b) => a >= b) && number(found, test.to, (a, b) => a <= b);
    case 'before':
      return moment(found, test.value, known, (a, b) => a < b);
    case 'after':
      return moment(found, test.value, known, (a, b) => a > b);
    case 'in_last': {
      const days = readNumber(test.value);
      const read = readInstant(found, known.country, known.timeZone);
      return days !== null && read !== null && read.at <= known.now && read.at >= known.now - days * 86_400_000;
    }
    case 'valid_email':
      return readEmail(found).ok;
    case 'valid_mobile': {
      const phone = readPhone(found, known.country);
      return phone.ok && phone.mobile !== false;
    }
    case 'has_tag':
      return known.tags.includes(test.value);
    case 'has_no_tag':
      return !known.tags.includes(test.value);
    case 'on_list':
      return known.memberOf.includes(test.value);
    case 'not_on_list':
      return !known.memberOf.includes(test.value);
    case 'agreed':
      return known.consent[test.value] === 'given';
    case 'not_agreed':
      return known.consent[test.value] !== 'given';
    case 'throw_away':
    case 'in_sheet':
      return isFact(test, found, known);
    case 'not_in_sheet':
      return !isFact(test, found, known);
  }
}

function number(found: string, asked: string, compare: (a: number, b: number) => boolean): boolean {
  const [a, b] = [readNumber(found), readNumber(asked)];
  return a !== null && b !== null && compare(a, b);
}

/** Two dates are compared as dates; when a time was said on both sides, as instants. "today" is the day of `now`. */
function moment(
  found: string,
  asked: string,
  known: Known,
  compare: (a: string | number, b: string | number) => boolean,
) {
  const read = (text: string) =>
    readInstant(plain(text) === 'today' ? new Date(known.now).toISOString() : text, known.country, known.timeZone);
  const [a, b] = [read(found), read(asked)];
  if (!a || !b) return false;
  return a.timed && b.timed && plain(asked) !== 'today' ? compare(a.at, b.at) : compare(a.date, b.date);
}
