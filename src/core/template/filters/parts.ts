import { type Filter, fine, type Made, unlessEmpty } from './filter.ts';

/** Longest text a replacement may make, in UTF-16 code units: far beyond any message, and soon reached by what runs away. */
const LONGEST_MADE = 100_000;

/** By what people see as one character, so that no accent or emoji is cut in half (Unicode UAX #29). */
const characters = (text: string): string[] =>
  [...new Intl.Segmenter('en', { granularity: 'grapheme' }).segment(text)].map(({ segment }) => segment);

const wholeNumber = (typed: string): number => Math.trunc(Number(typed)) || 0;

function replaced(value: string, from: string, to: string): Made {
  if (from === '') return fine(value);
  const pieces = value.split(from);
  if (value.length + (pieces.length - 1) * to.length > LONGEST_MADE)
    return { value, problem: 'replacing would make it far too long' };
  return fine(pieces.join(to));
}

function cut(value: string, after: string | null, before: string | null): Made {
  const start = after === null || after === '' ? 0 : value.indexOf(after);
  if (start < 0) return { value, problem: `there is no “${after}” in it` };
  const from = after === null ? 0 : start + after.length;
  const end = before === null || before === '' ? value.length : value.indexOf(before, from);
  if (end < 0) return { value, problem: `there is no “${before}” ${after === null ? 'in it' : 'after that'}` };
  return fine(value.slice(from, end).trim());
}

/** What parts a list when nothing is said: a comma. */
const mark = (typed: string | undefined): string => (typed === undefined || typed === '' ? ',' : typed);
const partsOf = (value: string, separator: string): string[] =>
  value
    .split(separator)
    .map((part) => part.trim())
    .filter(Boolean);

export const PARTS = {
  replace: {
    group: 'parts',
    label: 'replace',
    takes: [
      { label: 'this', takes: 'text', first: '' },
      { label: 'by', takes: 'text', first: '' },
    ],
    words: ([from = '', to = '']) => (to === '' ? `without “${from}”` : `“${from}” as “${to}”`),
    apply: (value, [from = '', to = '']) => replaced(value, from, to),
  },
  before: {
    group: 'parts',
    label: 'what stands before',
    takes: [{ label: 'this', takes: 'text', first: '' }],
    words: ([word = '']) => `before “${word}”`,
    apply: unlessEmpty((value, [word = '']) => cut(value, null, word)),
  },
  after: {
    group: 'parts',
    label: 'what stands after',
    takes: [{ label: 'this', takes: 'text', first: '' }],
    words: ([word = '']) => `after “${word}”`,
    apply: unlessEmpty((value, [word = '']) => cut(value, word, null)),
  },
  between: {
    group: 'parts',
    label: 'what stands between',
    takes: [
      { label: 'this', takes: 'text', first: '' },
      { label: 'and', takes: 'text', first: '' },
    ],
    words: ([one = '', two = '']) => `between “${one}” and “${two}”`,
    apply: unlessEmpty((value, [one = '', two = '']) => cut(value, one, two)),
  },
  keep: {
    group: 'parts',
    label: 'only its first characters',
    takes: [{ label: 'how many', takes: 'number', first: '10' }],
    words: ([many = '0']) => (many === '1' ? 'first character' : `first ${many} characters`),
    apply: (value, [many = '0']) =>
      fine(
        characters(value)
          .slice(0, Math.max(0, wholeNumber(many)))
          .join(''),
      ),
  },
  truncate: {
    group: 'parts',
    label: 'shorten to',
    takes: [{ label: 'characters', takes: 'number', first: '50' }],
    words: ([many = '50']) => `shortened to ${many}`,
    // As Liquid has it: the three dots count.
    apply: (value, [many = '50']) => {
      const all = characters(value);
      const most = Math.max(0, wholeNumber(many));
      if (all.length <= most) return fine(value);
      return fine(`${all.slice(0, Math.max(0, most - 3)).join('')}...`);
    },
  },
  part: {
    group: 'parts',
    label: 'one part of a list',
    takes: [
      { label: 'which', takes: 'number', first: '1' },
      { label: 'separated by', takes: 'text', first: ',' },
    ],
    words: ([which = '1', separator]) =>
      which === '-1' ? `last by “${mark(separator)}”` : `part ${which} by “${mark(separator)}”`,
    apply: unlessEmpty((value, [which = '1', separator]) => {
      const parts = partsOf(value, mark(separator));
      const wanted = wholeNumber(which);
      const found = parts.at(wanted > 0 ? wanted - 1 : wanted);
      if (wanted === 0 || found === undefined)
        return { value: '', problem: `it has ${parts.length === 1 ? 'one part' : `${parts.length} parts`}` };
      return fine(found);
    }),
  },
  join_parts: {
    group: 'parts',
    label: 'a list, written otherwise',
    takes: [
      { label: 'separated by', takes: 'text', first: ',' },
      { label: 'now with', takes: 'text', first: ', ' },
      { label: 'before the last', takes: 'text', first: ' and ' },
    ],
    words: ([, join = ', ', last = '']) => `a list with “${last || join}”`,
    apply: unlessEmpty((value, [separator, join = ', ', last = '']) => {
      const parts = partsOf(value, mark(separator));
      if (last === '' || parts.length < 2) return fine(parts.join(join));
      return fine(parts.slice(0, -1).join(join) + last + parts.at(-1));
    }),
  },
  join: {
    group: 'parts',
    label: 'together with',
    takes: [
      { label: 'this', takes: 'value', first: '' },
      { label: 'between them', takes: 'text', first: ' ' },
    ],
    words: ([other = '']) => `with ${other || '…'}`,
    // Where one of the two is empty nothing stands between.
    apply: (value, [other = '', between = ' ']) =>
      fine([value, other].filter((one) => one.trim() !== '').join(between)),
  },
} satisfies Record<string, Filter>;
