import { getCountries } from 'libphonenumber-js/max';

/** Every country with phone numbers of its own, by its English name (CLDR), in its order. */
export function countryChoices(): { code: string; name: string }[] {
  const names = new Intl.DisplayNames('en', { type: 'region' });
  return getCountries()
    .map((code) => ({ code, name: names.of(code) ?? code }))
    .sort((a, b) => a.name.localeCompare(b.name));
}
