import { readNumber } from '../fields/read-number.ts';
import { readEmail } from '../message/email-address.ts';
import { readPhone } from '../people/phone.ts';
import { readInstant } from '../time/read-instant.ts';
import type { SheetColumn } from './column.ts';

/** How a tick is written; whatever stands in a column of ticks besides is none. */
export const TICKED = 'yes';

/** Whether a cell fits its column. An empty cell fits everywhere. */
export function fitsColumn(
  cell: string,
  { type = 'text', choices = [] }: Pick<SheetColumn, 'type' | 'choices'>,
  place: { country: string; timeZone: string },
): boolean {
  const typed = cell.trim();
  if (typed === '') return true;
  switch (type) {
    case 'text':
      return true;
    case 'number':
      return readNumber(typed) !== null;
    case 'date':
      return readInstant(typed, place.country, place.timeZone) !== null;
    case 'tick':
      return typed.toLowerCase() === TICKED;
    case 'choice':
      return choices.some((choice) => choice.toLowerCase() === typed.toLowerCase());
    case 'email':
      return readEmail(typed).ok;
    case 'phone':
      return readPhone(typed, place.country).ok;
  }
}
