/** Languages somebody can have their dates and numbers written in (BCP 47), where they want others than their business's. */
export const DATE_LANGUAGES = [
  ...[
    'en-GB',
    'en-US',
    'en-IE',
    'en-AU',
    'en-CA',
    'en-IN',
    'en-ZA',
    'de-DE',
    'fr-FR',
    'es-ES',
    'it-IT',
    'nl-NL',
    'pt-PT',
    'pt-BR',
  ],
  ...['pl-PL', 'sv-SE', 'da-DK', 'nb-NO', 'fi-FI', 'cs-CZ'],
] as const;

/** A language as it is called in itself, with a day and a number as it writes them: "Deutsch (Deutschland): Sa., 3. Jan. 2026, 1.250,50". */
export function dateLanguageWords(locale: string): string {
  const name = new Intl.DisplayNames(locale, { type: 'language', languageDisplay: 'standard' }).of(locale) ?? locale;
  const day = new Intl.DateTimeFormat(locale, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  });
  return `${name}: ${day.format(Date.UTC(2026, 0, 3))}, ${new Intl.NumberFormat(locale, { minimumFractionDigits: 2 }).format(1250.5)}`;
}
