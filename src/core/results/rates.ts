/** From `day` on ("YYYY-MM-DD") one of a currency is worth so much of the business's own. */
export interface Rate {
  currency: string;
  day: string;
  rate: number;
}

/**
 * An amount (hundredths) in the business's own currency, by the rate of the day it happened: the latest that was told for that day or before it. Where
 * none was, it stays in its own currency, and is never added to the other.
 */
export function inOwnCurrency(
  money: number,
  currency: string,
  own: string,
  day: string,
  rates: readonly Rate[],
): { money: number; currency: string } {
  if (currency === own || currency === '') return { money, currency: own };
  let best: Rate | null = null;
  for (const rate of rates)
    if (rate.currency === currency && rate.day <= day && (best === null || rate.day > best.day)) best = rate;
  return best ? { money: Math.round(money * best.rate), currency: own } : { money, currency };
}

const MOST_RATES = 2000;

/**
 * Rates as a file or somebody writes them: a line each with a day ("YYYY-MM-DD"), a currency and what one of it is worth, in any order, parted by commas,
 * semicolons, tabs or spaces. A first line of names is left out. `problem` says what to put right, and then there are none.
 */
export function readRates(text: string): { rates: Rate[]; problem: string | null } {
  const rates: Rate[] = [];
  const lines = text.split(/\r?\n/);
  const problem = (n: number, why: string) => ({ rates: [], problem: `Line ${n + 1}: ${why}` });
  for (const [n, quoted] of lines.entries()) {
    const line = quoted.replaceAll('"', '');
    // A comma between digits is a decimal mark only where something else parts the words.
    const parted = /[;\t]/.test(line)
      ? line.split(/[;\t]/)
      : /,\s|[A-Za-z],|\d{4}-\d\d-\d\d,/.test(line)
        ? line.split(',')
        : line.split(/\s+/);
    const words = parted.map((word) => word.trim()).filter((word) => word !== '');
    if (words.length === 0 || (n === 0 && !/\d/.test(line))) continue;
    const day = words.find((word) => /^\d{4}-\d\d-\d\d$/.test(word) && !Number.isNaN(Date.parse(word)));
    const currency = words.find((word) => /^[A-Za-z]{3}$/.test(word));
    const rest = words.filter((word) => word !== day && word !== currency);
    const rate =
      rest.length === 1 && /^\d{1,9}([.,]\d{1,10})?$/.test(rest[0]!) ? Number(rest[0]!.replace(',', '.')) : null;
    if (!day) return problem(n, 'there is no day in it. Write it as 2026-11-01.');
    if (!currency) return problem(n, 'there is no currency in it: three letters, as in EUR.');
    if (rate === null || rate <= 0) return problem(n, 'there is no rate in it: a number above 0, as in 0.86.');
    if (rates.push({ day, currency: currency.toUpperCase(), rate }) > MOST_RATES)
      return problem(n, `these are more than ${MOST_RATES} rates. Take fewer days.`);
  }
  return rates.length === 0 ? { rates, problem: 'There is no rate in it.' } : { rates, problem: null };
}
