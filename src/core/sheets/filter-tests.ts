/** What a cell can be tested for. */
export const FILTER_TESTS = ['is', 'is_not', 'contains', 'is_filled', 'is_empty'] as const;
export type FilterTest = (typeof FILTER_TESTS)[number];
export const FILTER_WORDS: Record<FilterTest, string> = {
  is: 'is',
  is_not: 'is not',
  contains: 'contains',
  is_filled: 'is filled in',
  is_empty: 'is empty',
};
