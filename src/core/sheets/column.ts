import { z } from 'zod';
import { readNumber } from '../fields/read-number.ts';
import { namesOf } from '../words/names-of.ts';
import { FILTER_WORDS } from './filter-tests.ts';
import { fitsFilter } from './row-filter.ts';

/** What a column holds. A cell keeps what was typed whatever its type: one that does not fit is marked, never changed. */
export const COLUMN_TYPES = {
  text: 'Text',
  number: 'Numbers',
  date: 'Dates',
  tick: 'Ticks',
  choice: 'One of several',
  email: 'Emails',
  phone: 'Phone numbers',
} as const;
export type ColumnType = keyof typeof COLUMN_TYPES;

/** Our soft colours, by their names. */
export type Shade = keyof typeof SHADE_WORDS;
export const SHADE_WORDS = {
  brass: 'Brass',
  pine: 'Pine',
  mulberry: 'Mulberry',
  slate: 'Slate',
  warn: 'Amber',
  bad: 'Brick',
};

/** A column is known by its id; its name can change without anything that uses it noticing. */
export const SheetColumn = z.object({
  id: z.string().max(40),
  name: z.string().trim().min(1, 'Every column needs a name').max(200),
  type: z.enum(namesOf(COLUMN_TYPES)).optional(),
  /** What can be chosen, for one of several. */
  choices: z.array(z.string().trim().min(1).max(200)).max(100).optional(),
  shade: z.enum(namesOf(SHADE_WORDS)).optional(),
});
export type SheetColumn = z.infer<typeof SheetColumn>;

export const SHADE_TEST_WORDS = { ...FILTER_WORDS, greater: 'is greater than', less: 'is less than' };
export type ShadeTest = keyof typeof SHADE_TEST_WORDS;
export const SHADE_TESTS = namesOf(SHADE_TEST_WORDS);

/** Shades a cell, or its whole row, when the cell of a column fits. */
export const ShadeRule = z.object({
  column: z.string().min(1, 'Choose a column').max(40),
  test: z.enum(SHADE_TESTS),
  value: z.string().max(500).default(''),
  shade: z.enum(namesOf(SHADE_WORDS)),
  row: z.boolean().default(true),
});
export type ShadeRule = z.infer<typeof ShadeRule>;

export function fitsShade(cell: string, { test, value }: Pick<ShadeRule, 'test' | 'value'>): boolean {
  if (test !== 'greater' && test !== 'less') return fitsFilter(cell, { test, value });
  const [is, than] = [readNumber(cell), readNumber(value)];
  return is !== null && than !== null && (test === 'greater' ? is > than : is < than);
}

/** The shade of a cell: of the first rule that fits it or its row, else of its column; null for none. */
export function shadeOf(
  column: Pick<SheetColumn, 'id' | 'shade'>,
  cells: Readonly<Record<string, string>>,
  rules: readonly ShadeRule[],
): Shade | null {
  for (const rule of rules)
    if ((rule.row || rule.column === column.id) && fitsShade(cells[rule.column] ?? '', rule)) return rule.shade;
  return column.shade ?? null;
}
