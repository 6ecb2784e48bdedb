import { distance } from 'fastest-levenshtein';

/** A name contacts came with, and how many. */
export interface UsedName {
  name: string;
  n: number;
}

/** Two names that are probably one, written in two ways: the rarer and the more frequent. */
export interface Alike {
  name: string;
  likely: string;
  why: 'spelling' | 'typo';
}

/** What is left of a name when case, spaces, dashes and signs make no difference. */
export const bareName = (name: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '');

/** Names of fewer letters differ by what is meant as often as by mistake. Our own choice. */
const LONG_ENOUGH = 6;
/** Names that are compared each with each other: of more, the most frequent. */
const MOST = 400;

/** Numbers in names count something ("week-1", "week-2"): such names are never taken for one. */
const numbersOf = (name: string): string => (name.match(/\d+/g) ?? []).join(' ');

/**
 * Pairs of names that are probably one: the same but for case and signs, or but for one slip of the hand (two, as where letters are swapped, in names of nine letters and more). Each
 * name is named once, as the rarer; the most frequent first.
 */
export function alikeNames(used: readonly UsedName[]): Alike[] {
  const names = used
    .filter(({ name }) => name !== '')
    .toSorted((a, b) => b.n - a.n || (a.name < b.name ? -1 : 1))
    .slice(0, MOST)
    .map((one) => ({ ...one, bare: bareName(one.name), numbers: numbersOf(one.name) }));
  const found: Alike[] = [];
  for (const [i, rare] of names.entries()) {
    for (const common of names.slice(0, i)) {
      if (rare.numbers !== common.numbers) continue;
      if (rare.bare === common.bare && rare.bare !== '')
        found.push({ name: rare.name, likely: common.name, why: 'spelling' });
      else if (!oneSlip(rare.bare, common.bare)) continue;
      else found.push({ name: rare.name, likely: common.name, why: 'typo' });
      break;
    }
  }
  return found;
}

function oneSlip(a: string, b: string): boolean {
  const letters = Math.min(a.length, b.length);
  return letters >= LONG_ENOUGH && distance(a, b) <= (letters >= 9 ? 2 : 1);
}
