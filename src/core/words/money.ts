import currencyOfCountry from 'country-to-currency';

/** The currency of a country, ISO 4217, by its ISO 3166-1 code; the euro for what is no country. */
export const currencyOf = (country: string): string =>
  (currencyOfCountry as Readonly<Record<string, string>>)[country] ?? 'EUR';

const formats = new Map<string, Intl.NumberFormat>();

/** An amount with its currency as a locale writes it: "£1,250" and "£12.50". What is no number stays as it is; nothing for null. */
export function moneyWords(amount: string | number | null, currency: string, locale: string): string {
  if (amount === null || amount === '') return '';
  const value = Number(amount);
  if (!Number.isFinite(value)) return String(amount);
  const whole = Number.isInteger(value);
  const key = `${locale} ${currency} ${whole}`;
  const format =
    formats.get(key) ??
    new Intl.NumberFormat(locale, {
      style: 'currency',
      currency,
      currencyDisplay: 'narrowSymbol',
      ...(whole ? { minimumFractionDigits: 0, maximumFractionDigits: 0 } : {}),
    });
  formats.set(key, format);
  return format.format(value);
}
