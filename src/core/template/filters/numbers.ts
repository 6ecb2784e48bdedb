import Big from 'big.js';
import { readNumber } from '../../fields/read-number.ts';
import { numbersOf } from '../../words/locale-of.ts';
import { type Filter, type Made, type Surroundings, unlessEmpty } from './filter.ts';

/** Decimal, so that 0.1 and 0.2 are 0.3; a division has 20 places at most. */
const Decimal = Big();
Decimal.DP = 20;

/** "1,250.00", "£40" and "1 250" as the decimal they are; null for what is no number. */
function decimal(typed: string): Big | null {
  const read = readNumber(typed);
  // No number of a form is as large as this; what is would only be written in tens of pages.
  return read === null || Math.abs(read) > 1e15 ? null : new Decimal(read);
}

/** Without an exponent; ten decimals are more than anybody reads. */
const written = (number: Big): string => number.round(10).toFixed();

const reckon = (label: string, sign: string, does: (one: Big, other: Big) => Made): Filter => ({
  group: 'numbers',
  label,
  takes: [{ label: 'this', takes: 'value', first: '1' }],
  words: ([other = '']) => `${sign} ${other || '…'}`,
  apply: unlessEmpty((value, [typed = '']) => {
    const one = decimal(value);
    if (!one) return { value, problem: 'this is not a number' };
    const other = decimal(typed);
    if (!other) return { value, problem: typed === '' ? 'there is no second number' : `“${typed}” is not a number` };
    return does(one, other);
  }),
});
const result = (number: Big): Made => ({ value: written(number), problem: null });

/** A number as the country writes it, with so many decimals. */
function format(number: Big, { country }: Surroundings, options: Intl.NumberFormatOptions): string {
  // Given as text, no digit is lost (ECMA-402, Intl.NumberFormat v3).
  return new Intl.NumberFormat(numbersOf(country), options).format(number.toFixed() as Intl.StringNumericLiteral);
}

export const NUMBERS = {
  plus: reckon('plus', '+', (one, other) => result(one.plus(other))),
  minus: reckon('minus', '−', (one, other) => result(one.minus(other))),
  times: reckon('times', '×', (one, other) => result(one.times(other))),
  divided_by: reckon('divided by', '÷', (one, other) =>
    other.eq(0) ? { value: written(one), problem: 'nothing can be divided by 0' } : result(one.div(other)),
  ),
  number: {
    group: 'numbers',
    label: 'as a number',
    takes: [{ label: 'decimals', takes: 'number', first: '0' }],
    words: ([decimals = '0']) => (decimals === '0' ? 'as a whole number' : `with ${decimals} decimals`),
    apply: unlessEmpty((value, [decimals = '0'], surroundings) => {
      const number = decimal(value);
      if (!number) return { value, problem: 'this is not a number' };
      const places = Math.min(10, Math.max(0, Math.trunc(Number(decimals)) || 0));
      return {
        value: format(number, surroundings, { minimumFractionDigits: places, maximumFractionDigits: places }),
        problem: null,
      };
    }),
  },
  money: {
    group: 'numbers',
    label: 'as money',
    takes: [{ label: 'currency', takes: 'text', first: '' }],
    words: ([currency = '']) => (currency === '' ? 'as money' : `as ${currency.toUpperCase()}`),
    apply: unlessEmpty((value, [currency = ''], surroundings) => {
      const number = decimal(value);
      if (!number) return { value, problem: 'this is not an amount' };
      const code = currency.trim().toUpperCase();
      // ISO 4217: three letters.
      if (!/^[A-Z]{3}$/.test(code)) return { value, problem: 'say the currency in three letters, like GBP or EUR' };
      return {
        value: format(number, surroundings, { style: 'currency', currency: code, currencyDisplay: 'narrowSymbol' }),
        problem: null,
      };
    }),
  },
} satisfies Record<string, Filter>;
