import type { Span } from '../time/span.ts';
import { fold, type KnownThing, namesOf } from './known.ts';
import { CLOCK_WORDS, readClock, readSpan, SPAN_WORDS } from './spans.ts';

/** Something in a sentence that stands for itself: a name, words in quotes, a span of time, a time of day. */
export type Token =
  | { is: 'name'; text: string; things: readonly KnownThing[] }
  | { is: 'quote'; text: string; things: readonly KnownThing[] }
  | { is: 'span'; text: string; span: Span }
  | { is: 'clock'; text: string; clock: string };

/** Where each letter of the masked sentence stands in what was typed. */
export interface Masked {
  /** What was typed. */
  typed: string;
  /** Folded, with one letter of a private range for each token, so that a grammar sees one word where a name has five. */
  text: string;
  from: number[];
  to: number[];
  tokens: Token[];
}

const FIRST = { name: 0xe000, quote: 0xe800, span: 0xec00, clock: 0xf000 } as const;
export const NAME = '[\\uE000-\\uE3FF]';
export const QUOTE = '[\\uE800-\\uEBFF]';
/** A name, in quotes or not. */
export const NAMED = '[\\uE000-\\uE3FF\\uE800-\\uEBFF]';
export const SPAN = '[\\uEC00-\\uEFFF]';
export const CLOCK = '[\\uF000-\\uF3FF]';

/** The token a masked letter stands for: the ranges begin at multiples of 1024, and there are fewer tokens than that. */
export const tokenAt = (masked: Masked, letter: string): Token => masked.tokens[letter.charCodeAt(0) & 0x3ff]!;

const letterOf = (token: Token, index: number): string => String.fromCharCode(FIRST[token.is] + index);

const WORD = /[\p{L}\p{N}]/u;
/** Most tokens of one sentence; what is longer is not one. */
const MOST = 900;

/** Finds what stands for itself in a sentence: quotes first, then names, the longest first, then times. What is `everyday` is a name in quotes only. */
export function mask(typed: string, things: readonly KnownThing[], everyday: ReadonlySet<string> = new Set()): Masked {
  const folded = fold(typed);
  const taken: { from: number; to: number; token: Token }[] = [];
  const free = (from: number, to: number) => taken.every((one) => to <= one.from || from >= one.to);
  const take = (from: number, to: number, token: Token) => {
    if (taken.length < MOST && free(from, to)) taken.push({ from, to, token });
  };
  const byName = new Map<string, KnownThing[]>();
  for (const thing of things)
    for (const name of namesOf(thing)) {
      const known = byName.get(name) ?? [];
      if (!known.includes(thing)) byName.set(name, [...known, thing]);
    }
  for (const found of typed.matchAll(/"([^"\n]+)"|“([^“”\n]+)”|„([^„“”\n]+)[“”]|«([^«»\n]+)»/gu)) {
    const text = (found[1] ?? found[2] ?? found[3] ?? found[4] ?? '').trim();
    const things = byName.get(fold(text).replace(/\s+/g, ' ')) ?? [];
    take(found.index, found.index + found[0].length, { is: 'quote', text, things });
  }
  const names = [...byName].sort((a, b) => b[0].length - a[0].length);
  for (const [name, named] of names.filter(([name]) => !everyday.has(name)))
    for (let at = folded.indexOf(name); at >= 0; at = folded.indexOf(name, at + 1)) {
      const end = at + name.length;
      if (WORD.test(folded[at - 1] ?? '') || WORD.test(folded[end] ?? '')) continue;
      take(at, end, { is: 'name', text: typed.slice(at, end), things: named });
    }
  for (const found of folded.matchAll(SPAN_WORDS)) {
    const span = readSpan(found[0]);
    if (span) take(found.index, found.index + found[0].length, { is: 'span', text: found[0], span });
  }
  for (const found of folded.matchAll(CLOCK_WORDS)) {
    const clock = readClock(found[0]);
    if (clock) take(found.index, found.index + found[0].length, { is: 'clock', text: found[0], clock });
  }
  taken.sort((a, b) => a.from - b.from);
  const masked: Masked = { typed, text: '', from: [], to: [], tokens: taken.map(({ token }) => token) };
  const push = (letter: string, from: number, to: number) => {
    masked.text += letter;
    masked.from.push(from);
    masked.to.push(to);
  };
  let at = 0;
  taken.forEach((one, i) => {
    for (; at < one.from; at++) push(folded[at]!, at, at + 1);
    push(letterOf(one.token, i), one.from, one.to);
    at = one.to;
  });
  for (; at < folded.length; at++) push(folded[at]!, at, at + 1);
  return masked;
}
