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
