import { z } from 'zod';
import { namesOf } from '../words/names-of.ts';
import { FILTER_WORDS } from './filter-tests.ts';

/** Which rows count: one column against one value. Text is compared without regard to case and outer spaces. */
export const RowFilter = z.object({
  column: z.string().min(1).max(200),
  test: z.enum(namesOf(FILTER_WORDS)),
  value: z.string().max(500).default(''),
});
export type RowFilter = z.infer<typeof RowFilter>;

const plain = (text: string) => text.trim().toLowerCase();

export function fitsFilter(cell: string, { test, value }: Pick<RowFilter, 'test' | 'value'>): boolean {
  switch (test) {
    case 'is':
      return plain(cell) === plain(value);
    case 'is_not':
      return plain(cell) !== plain(value);
    case 'contains':
      return plain(cell).includes(plain(value));
    case 'is_filled':
      return cell.trim() !== '';
    case 'is_empty':
      return cell.trim() === '';
  }
}
