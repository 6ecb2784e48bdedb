import { FIELD_LIMITS, storableText } from '../fields/field.ts';
import { flatten } from '../fields/flatten.ts';
import type { ReadValue } from './description.ts';
import { valuesAt } from './paths.ts';

/** What was read from an answer: texts, and lists and fields where they are asked for as a whole. */
export type ReadValues = Record<string, unknown>;

/** The values a call reads, by name; those that are not there are empty. */
export function readValues(reads: Record<string, ReadValue>, answer: unknown): ReadValues {
  return Object.fromEntries(Object.entries(reads).map(([name, read]) => [name, readValue(read, answer)]));
}

const there = (one: unknown): boolean => one !== null && one !== undefined;

function readValue({ path, as, of = {} }: ReadValue, answer: unknown): unknown {
  const found = valuesAt(path, answer).filter(there);
  if (as === 'whole') return found[0] ?? null;
  if (as === 'list')
    return found
      .flat()
      .map((thing) =>
        Object.fromEntries(Object.entries(of).map(([name, one]) => [name, textOf(valuesAt(one, thing).filter(there))])),
      );
  const text = textOf(found);
  switch (as) {
    case 'date':
      return instantOf(text);
    case 'money':
      return moneyOf(text);
    case 'number':
      return /^\s*-?\d+(\.\d+)?\s*$/.test(text) ? text.trim() : '';
    case 'text':
      return text;
  }
}

/** Several plain values one after the other; of lists and fields, what stands in them. */
const textOf = (found: readonly unknown[]): string =>
  storableText(
    found
      .map((one) => {
        if (typeof one !== 'object') return String(one);
        const flat = flatten(one);
        return flat.ok
          ? flat.fields
              .map(({ value }) => value)
              .filter(Boolean)
              .join(', ')
          : '';
      })
      .filter(Boolean)
      .join(', '),
  ).slice(0, FIELD_LIMITS.length);

/** The first value at a path as text; empty where there is none. */
export const textAt = (path: string, answer: unknown): string =>
  textOf(
    valuesAt(path, answer)
      .slice(0, 1)
      .filter((one) => one !== null),
  );

/**
 * An instant as machines write it: ISO 8601 or RFC 5322, or seconds or milliseconds since 1970, told apart by their size. Empty for what is none, and
 * for years nobody means. A time without a zone is taken as UTC.
 */
export function instantOf(text: string): string {
  const written = text.trim();
  let at: number;
  if (/^\d{9,10}(\.\d+)?$/.test(written)) at = Number(written) * 1000;
  else if (/^\d{12,13}$/.test(written)) at = Number(written);
  else if (/^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?$/.test(written))
    at = Date.parse(`${written.replace(' ', 'T')}Z`);
  // Anything a browser guesses at is not read: 01/02/2026 is two days.
  else if (/^\d{4}-\d{2}-\d{2}/.test(written) || /^([A-Z][a-z]{2}, )?\d{1,2} [A-Z][a-z]{2} \d{4} /.test(written))
    at = Date.parse(written);
  else return '';
  return at >= Date.UTC(1970, 0, 1) && at < Date.UTC(2200, 0, 1) ? new Date(at).toISOString() : '';
}

/**
 * An amount as a plain number with a dot: "£1,250.50" and "1.250,50 €" are both 1250.50. The last of comma and dot parts the pence when one or two
 * digits follow it; before three it parts thousands. Empty where no amount stands.
 */
export function moneyOf(text: string): string {
  const m = /-?\d[\d.,' \u00a0\u202f]*/.exec(text.replace(/[−–]/g, '-'));
  if (!m) return '';
  let digits = m[0].replace(/[' \u00a0\u202f]/g, '');
  while (digits.endsWith('.') || digits.endsWith(',')) digits = digits.slice(0, -1);
  const last = Math.max(digits.lastIndexOf('.'), digits.lastIndexOf(','));
  if (last < 0) return digits;
  const behind = digits.length - last - 1;
  const alone = digits.split(/[.,]/).length === 2;
  const whole = digits.slice(0, last).replace(/[.,]/g, '');
  // "1.250": of a machine, a dot with three digits behind it is a number; a comma is not.
  if (behind === 3 && !(alone && digits[last] === '.')) return whole + digits.slice(last + 1);
  return `${whole}.${digits.slice(last + 1)}`;
}
