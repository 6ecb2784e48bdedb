import { CHANNEL_WORDS, type Channel } from '../workflow/channel.ts';
import { type Condition, partsOf, TESTS, type Test } from './condition.ts';
import type { Compared } from './evaluate.ts';

/** Names of what a condition refers to. */
export interface Names {
  field(reference: string): string;
  tag(id: string): string;
  list(id: string): string;
  /** "Name of the column in Name of the sheet", for "tab/column". */
  column(id: string): string;
}

/** "Instrument is one of Piano, Violin". */
export function testWords(test: Test, names: Names): string {
  // What was waited for happened or not: that is how people say it.
  if (test.field === 'happened.it' && test.test === 'is')
    return test.value === 'yes' ? 'it happened' : 'nothing happened';
  const { words, takes } = TESTS[test.test];
  const subject = test.field === '' ? 'the lead' : names.field(test.field);
  if (takes === null) return `${subject} ${words}`;
  const value =
    takes === 'tag'
      ? names.tag(test.value)
      : takes === 'members'
        ? names.list(test.value)
        : takes === 'column'
          ? names.column(test.value)
          : takes === 'channel'
            ? (CHANNEL_WORDS[test.value as Channel]?.many ?? test.value)
            : takes === 'list'
              ? test.value
                  .split(/[\n;]/)
                  .map((line) => line.trim())
                  .filter(Boolean)
                  .join(', ')
              : takes === 'days'
                ? `${test.value} ${test.value === '1' ? 'day' : 'days'}`
                : takes === 'two numbers'
                  ? `${test.value} and ${test.to}`
                  : test.value;
  return `${subject} ${words} ${value.trim() === '' ? '…' : value}`;
}

/** A condition read aloud: "Instrument is Piano and (the lead agreed to texts or Phone is empty)". */
export function conditionWords(condition: Condition, names: Names, inside = false): string {
  if ('test' in condition) return testWords(condition, names);
  const parts = partsOf(condition);
  if (parts.length === 0) return 'always';
  if (parts.length === 1) return conditionWords(parts[0]!, names, inside);
  const text = parts.map((part) => conditionWords(part, names, true)).join('all' in condition ? ' and ' : ' or ');
  return inside ? `(${text})` : text;
}

/** Why it did not hold, with the value found: "Instrument is Piano: it is “Violin”". */
export function comparedWords({ test, found }: Compared, names: Names): string {
  const asked = testWords(test, names);
  if (test.field === '' || test.field === 'happened.it') return asked;
  if (found === null)
    return `${asked}: ${test.field.startsWith('found') ? 'it could not be found out' : 'nothing is known of it'}`;
  return `${asked}: ${found.trim() === '' ? 'it is empty' : `it is “${found.slice(0, 80)}”`}`;
}
