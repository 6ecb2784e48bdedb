import { searchWords } from '../../core/people/search-words.ts';

/** The text of one pattern: somewhere in it, with nothing in it that means something to LIKE. */
const somewhere = (word: string) => `%${word.replace(/[\\%_]/g, '\\$&')}%`;

/**
 * Conditions on the lead `l` for a search as it was typed, one for each word; `add` gives the place of a value. Index lead_found_by. The
 * column holds names and addresses folded, and the digits of the number.
 */
export const searchSql = (typed: string, country: string, add: (value: unknown) => string): string[] =>
  searchWords(typed, country).map((word) => `l.found_by like folded(${add(somewhere(word))})`);
