import { CHOICE } from './choice.ts';
import { CONTACT } from './contact.ts';
import { DATES } from './dates.ts';
import type { Filter } from './filter.ts';
import { LETTERS } from './letters.ts';
import { NUMBERS } from './numbers.ts';
import { PARTS } from './parts.ts';

/** Everything that can be done with a field where it is used, by the name it has behind the pipe. In the order of the menu. */
export const FILTERS: Readonly<Record<string, Filter>> = {
  ...LETTERS,
  ...PARTS,
  ...CHOICE,
  ...NUMBERS,
  ...DATES,
  ...CONTACT,
};
export const filterOf = (name: string): Filter | null => (Object.hasOwn(FILTERS, name) ? FILTERS[name]! : null);
