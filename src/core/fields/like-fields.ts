import { distance } from 'fastest-levenshtein';
import { readEmail } from '../message/email-address.ts';
import { readPhone } from '../people/phone.ts';
import { LEAD_FIELDS, looksLikeLeadField } from '../source/lead-card.ts';
import type { FieldReference } from '../template/field-reference.ts';
import { plainWords } from './plain-words.ts';

/** A field there is, with what the sample has in it. */
export interface ThereIs extends FieldReference {
  label: string;
  value: string;
}

/** Something to be filled: a column of a sheet, a field of a list. */
export interface Wanted {
  key: string;
  label: string;
}

export interface Likely<Field extends ThereIs> {
  wanted: Wanted;
  field: Field;
}

/** Words that say nothing about what a field holds. */
const EMPTY_WORDS = new Set(['the', 'a', 'an', 'of', 'your', 'their', 'our', 'my', 'which', 'what', 'is', 'no', 'nr']);
const telling = (text: string): string[] => plainWords(text).filter((word) => !EMPTY_WORDS.has(word));

/** A column of addresses takes no value that is none. An empty value says nothing. */
function holds(as: string | null, value: string, country: string): boolean {
  if (value === '') return true;
  if (as === 'email') return readEmail(value).ok;
  return as === 'phone' ? readPhone(value, country).ok : true;
}

/** How much a name is like another: 3 the same, 2 all its words and more, 1 a slip of the finger away, 0 not at all. */
function likeness(one: string[], other: string[]): number {
  if (one.length === 0 || other.length === 0) return 0;
  const [a, b] = [one.join(' '), other.join(' ')];
  if (a === b) return 3;
  const [few, many] = one.length < other.length ? [one, other] : [other, one];
  if (few.length < many.length && few.every((word) => many.includes(word))) return 2;
  return Math.min(a.length, b.length) >= 6 && distance(a, b) <= 2 ? 1 : 0;
}

/** Fields of the lead come before the same thing as it was typed, and what came in before where it came from. */
const RANK: Partial<Record<FieldReference['group'], number>> = { lead: 0.6, answers: 0.5, own: 0.4, found: 0.3 };

/**
 * Which field most likely belongs into which place: by name, by what the name says of a person ("E-mail address"), and never against what the sample has in
 * it. A guess, to be confirmed; places like nothing are left out. Each field is guessed once. `country` is ISO 3166-1, for phone numbers.
 */
export function likeFields<Field extends ThereIs>(
  wanted: readonly Wanted[],
  fields: readonly Field[],
  country: string,
): Likely<Field>[] {
  const pairs = wanted.flatMap((place) => {
    const words = telling(place.label);
    const as =
      LEAD_FIELDS.find((name) => looksLikeLeadField(name, place.label)) ??
      (['email', 'phone'] as const).find((name) => words.includes(name)) ??
      null;
    return fields.flatMap((field) => {
      if (!holds(as, field.value, country)) return [];
      const names = [field.label, field.key.split('.').at(-1) ?? field.key].map(telling);
      const byName = Math.max(...names.map((name) => likeness(words, name)));
      const byPerson =
        as !== null && looksLikeLeadField(as, place.label) && field.group === 'lead' && field.key === as ? 4 : 0;
      const like = Math.max(byName, byPerson);
      return like === 0 ? [] : [{ wanted: place, field, like: like + (RANK[field.group] ?? 0) }];
    });
  });
  const found = new Map<string, Likely<Field>>();
  const used = new Set<string>();
  // The surest first, so that no other takes a field away from its place.
  for (const { wanted: place, field } of pairs.sort((a, b) => b.like - a.like)) {
    const name = `${field.group}.${field.key}`;
    if (found.has(place.key) || used.has(name)) continue;
    found.set(place.key, { wanted: place, field });
    used.add(name);
  }
  return wanted.flatMap((place) => found.get(place.key) ?? []);
}
