/** What a cell can be tested for. */
export type FilterTest = keyof typeof FILTER_WORDS;
export const FILTER_WORDS = {
  is: 'is',
  is_not: 'is not',
  contains: 'contains',
  is_filled: 'is filled in',
  is_empty: 'is empty',
};
