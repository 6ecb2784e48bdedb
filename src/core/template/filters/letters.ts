import { type Filter, fine } from './filter.ts';

const plain = (label: string, apply: (value: string) => string): Filter => ({
  group: 'letters',
  label,
  takes: [],
  words: () => label,
  apply: (value) => fine(apply(value)),
});

export const LETTERS = {
  downcase: plain('lower case', (value) => value.toLocaleLowerCase('en')),
  upcase: plain('UPPER CASE', (value) => value.toLocaleUpperCase('en')),
  capitalize: plain('Capital first', (value) => {
    const [first = '', ...rest] = value;
    return first.toLocaleUpperCase('en') + rest.join('').toLocaleLowerCase('en');
  }),
  strip: plain('without outer spaces', (value) => value.trim()),
  first_word: plain('first word only', (value) => value.trim().split(/\s+/u)[0] ?? ''),
} satisfies Record<string, Filter>;
