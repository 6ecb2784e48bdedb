import { readNumber } from '../fields/read-number.ts';
import { readInstant } from '../time/read-instant.ts';
import type { ColumnType } from './column.ts';

/** Numbers in a text by their size, everything else by the alphabet. */
const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/**
 * The order of cells, as indexes: numbers and dates by what they mean, text by the alphabet; what does not fit comes after all
 * that does, and empty cells last, whichever way.
 */
export function orderOf(
  cells: readonly string[],
  type: ColumnType,
  down: boolean,
  place: { country: string; timeZone: string },
): Uint32Array {
  const order = Uint32Array.from(cells.keys());
  const way = down ? -1 : 1;
  const amount = (cell: string): number =>
    type === 'number'
      ? (readNumber(cell) ?? Number.NaN)
      : (readInstant(cell, place.country, place.timeZone)?.at ?? Number.NaN);
  const amounts = type === 'number' || type === 'date' ? Float64Array.from(cells, amount) : null;
  const empty = Uint8Array.from(cells, (cell) => (cell.trim() === '' ? 1 : 0));
  return order.sort((a, b) => {
    if (empty[a] !== empty[b]) return empty[a]! - empty[b]!;
    if (amounts) {
      const [left, right] = [amounts[a]!, amounts[b]!];
      const [noLeft, noRight] = [Number.isNaN(left), Number.isNaN(right)];
      if (noLeft !== noRight) return noLeft ? 1 : -1;
      if (!noLeft && left !== right) return left < right ? -way : way;
      if (!noLeft) return a - b;
    }
    return collator.compare(cells[a]!, cells[b]!) * way || a - b;
  });
}
