import { type Clause, words } from './clause.ts';
import type { Doing } from './draft.ts';
import { fold, type KnownKind, type KnownThing } from './known.ts';
import { NAMED, QUOTE } from './mask.ts';

/** What a doing is about and is not known by that name: somebody has to say. */
export interface Missing {
  kind: KnownKind;
  /** As it was said; "" where nothing was. */
  said: string;
  /** Kinds of source by which what was said can be. */
  kinds?: readonly string[];
  from: number;
  to: number;
}

export interface Reading {
  /** The thing of a kind that a letter stands for; null where it is none, or several and nobody has said which. */
  find(letter: string, kind: KnownKind): KnownThing | null;
  /** The id somebody has given for what was not understood; notes the question and gives "" where nobody has. */
  ask(missing: Missing): string;
  fields: readonly KnownThing[];
}

export const THEM = '(?:them|him|her|everybody|everyone|the (?:lead|customer|person))';
export const SAYING = `(?:(?: message)?(?: (?:saying|that says|with the words|with|which says))?:? ?(${QUOTE}))?`;
export const MAIL = 'e-?mail';
export const UNKNOWN = "([\\p{L}\\p{N}][\\p{L}\\p{N}' -]*?)";
/** A name of ours, or words that are none. */
export const THING = `(?:(${NAMED})|${UNKNOWN}(?= (?:if|only|when|after|within|in two|later)|\\s*$))`;
export const NAMES = `(?:the |our )?((?:${NAMED})(?:(?:\u201A| \u2014\u2014\u2014| or)? ?(?:the )?${NAMED})*)`;
export const OWNER = '(?:the|their) owner|whoever (?:owns|looks after) them';

/** What the texts say when nobody says what: polite, true whatever is asked for, and to be read before they go live. */
export const WRITES = {
  text: 'Hi {{ lead.first_name | default: "there" }}, thank you for getting in touch. We will be with you shortly. {{ business.name }}',
  subject: 'Thank you for getting in touch',
  email:
    'Hello {{ lead.first_name | default: "there" }},\n\nthank you for getting in touch. If you have a question, just reply to this email.\n\nKind regards\n{{ business.name }}',
  told: '{{ lead.full_name }}, by {{ source.name }}.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
} as const;

/** Quoted words as a message: what stands in braces or brackets by the name of a field is that field. */
export function messageOf(text: string, fields: readonly KnownThing[]): string {
  const byName = new Map(fields.map((field) => [fold(field.name), field.id]));
  return text.replace(/(?<![{[])[{[]([^{}[\]]{1,60})[}\]](?![}\]])/g, (whole, name: string) => {
    const field = byName.get(fold(name.trim()));
    return field ? `{{ ${field} }}` : whole;
  });
}

export type Make = (read: RegExpExecArray, clause: Clause, reading: Reading, from: number) => Doing[] | null;
/** A doing in words, and what it becomes. */
export type DoingPattern = readonly [RegExp, Make];

/** Puts doings down one after another, in the order they are tried. */
export const doingsIn =
  (all: DoingPattern[]) =>
  (pattern: string, make: Make): void => {
    all.push([words(pattern), make]);
  };

export const quoted = (clause: Clause, letter: string | undefined): string => (letter ? clause.token(letter).text : '');
export const letters = (names: string): string[] =>
  [...names].filter((letter) => letter >= '\uE000' && letter <= '\uEBFF');
export const step = (kind: string, place: Doing['place'], settings: Record<string, unknown>): Doing => ({
  kind,
  place,
  settings,
});

/** The id of what was named, asked for where it is not known. */
export function idOf(
  kind: KnownKind,
  letter: string | undefined,
  said: string | undefined,
  clause: Clause,
  reading: Reading,
  from: number,
): string {
  const found = letter ? reading.find(letter, kind) : null;
  if (found) return found.id;
  const { from: begin, to } = clause.since(from);
  return reading.ask({ kind, said: letter ? quoted(clause, letter) : (said ?? '').trim(), from: begin, to });
}
