/** Where and when a value is worked on: how its country writes numbers and dates, and by which clock. `now` in milliseconds; null where nobody said. */
export interface Surroundings {
  locale: string;
  /** ISO 3166-1 alpha-2. */
  country: string;
  /** An IANA name. */
  timeZone: string;
  now: number | null;
}

/** What came of it. A value that could not be worked on stays as it was, and `problem` says why. */
export interface Made {
  value: string;
  problem: string | null;
}

/** What a filter must be told, as its form asks for it. */
export interface Parameter {
  /** Before the box, in the words of the sentence: "this". */
  label: string;
  takes:
    | 'text'
    | 'number'
    /** A text, or another field. */
    | 'value'
    /** As many pairs as one likes, and one more text for all others. */
    | 'pairs'
    | readonly (readonly [value: string, words: string])[];
  /** What stands there first. */
  first: string;
}

export const FILTER_GROUPS = {
  letters: 'Letters',
  parts: 'Parts of it',
  choice: 'One for another',
  numbers: 'Numbers',
  dates: 'Dates and times',
  contact: 'Phone',
} as const;

/** One thing done with a field where it is used: text to text. Its name is what stands behind the pipe in Liquid. */
export interface Filter {
  group: keyof typeof FILTER_GROUPS;
  /** In the menu. */
  label: string;
  takes: readonly Parameter[];
  /** On the chip, told what it was given. */
  words: (args: readonly string[]) => string;
  apply: (value: string, args: readonly string[], surroundings: Surroundings) => Made;
}

export const fine = (value: string): Made => ({ value, problem: null });

/** Nothing was typed: then there is nothing to work on, and nothing wrong. */
export const unlessEmpty =
  (apply: Filter['apply']): Filter['apply'] =>
  (value, args, surroundings) =>
    value.trim() === '' ? fine('') : apply(value, args, surroundings);
