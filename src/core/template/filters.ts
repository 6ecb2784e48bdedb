/**
 * The tidyings a coordinator can put on a field inside a message: our list of Liquid filters, with the words of the menu.
 * `takes` says whether the filter has one text argument.
 */
export const FIELD_FILTERS = {
  downcase: { label: 'lower case', takes: null },
  upcase: { label: 'UPPER CASE', takes: null },
  capitalize: { label: 'Capital first', takes: null },
  strip: { label: 'without outer spaces', takes: null },
  first_word: { label: 'first word only', takes: null },
  default: { label: 'if empty, say', takes: 'text' },
  truncate: { label: 'shorten to', takes: 'number' },
} as const;
export type FieldFilter = keyof typeof FIELD_FILTERS;
