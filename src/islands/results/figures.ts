/** A count that may be shared among contacts: "41", or "13.5" where it is no whole number. */
export function countWords(n: number, locale: string): string {
  const whole = Math.abs(n - Math.round(n)) < 0.005;
  return new Intl.NumberFormat(locale, { maximumFractionDigits: whole ? 0 : n < 10 ? 2 : 1 }).format(n);
}

/** A share as people read it: "21.6 %". */
export const shareWords = (share: number, locale: string, digits = 1): string =>
  `${new Intl.NumberFormat(locale, { maximumFractionDigits: digits, minimumFractionDigits: digits }).format(share * 100)} %`;

const formats = new Map<string, Intl.NumberFormat>();

/** Amounts in hundredths by currency, each by itself: "£1,480.00 and $20.00". "" where there is none. In a column all have the same decimals. */
export function sumsWords(sums: Readonly<Record<string, number>>, own: string, locale: string): string {
  return Object.entries(sums)
    .filter(([, sum]) => sum !== 0)
    .sort(([a], [b]) => Number(b === own) - Number(a === own) || (a < b ? -1 : 1))
    .map(([currency, sum]) => {
      const key = `${locale} ${currency}`;
      const format =
        formats.get(key) ??
        new Intl.NumberFormat(locale, { style: 'currency', currency, currencyDisplay: 'narrowSymbol' });
      formats.set(key, format);
      return format.format(sum / 100);
    })
    .join(' and ');
}

/** What one of them costs: only where cost and money are of one currency. "" where it cannot be said. */
export function eachWords(cost: Readonly<Record<string, number>>, n: number, own: string, locale: string): string {
  const spent = Object.entries(cost).filter(([, sum]) => sum !== 0);
  if (n <= 0 || spent.length !== 1) return '';
  const [currency, sum] = spent[0]!;
  return sumsWords({ [currency]: Math.round(sum / n) }, own, locale);
}

/** How strong a cell is tinted, 0 to 4: its part of the largest in its column. */
export const heat = (value: number, most: number): 0 | 1 | 2 | 3 | 4 =>
  most <= 0 || value <= 0 ? 0 : (Math.min(4, Math.ceil((value / most) * 4)) as 1 | 2 | 3 | 4);
