import { monthFirst } from '../time/read-date.ts';

/** How hours are shown: as the country does, or otherwise by choice. */
export const CLOCKS = { country: 'As the country writes them', '24': '15:30', '12': '3:30 pm' } as const;
export type Clock = keyof typeof CLOCKS;

/**
 * The locale (BCP 47) in which a business's dates, times and numbers are written: English words, in the order, with the marks and the clock of its country
 * (CLDR through ECMA-402). Where CLDR has no English of that country, another's that orders the day and the month alike, with the country's own clock. `country` is
 * ISO 3166-1 alpha-2.
 */
export function localeOf(country: string, clock: Clock = 'country'): string {
  const own = `en-${country}`;
  const known = Intl.DateTimeFormat(own).resolvedOptions().locale === own;
  const base = known ? own : monthFirst(country) ? 'en-US' : 'en-150';
  if (clock !== 'country') return `${base}-u-hc-${clock === '12' ? 'h12' : 'h23'}`;
  return known ? base : `${base}-u-hc-${cycleOf(country)}`;
}

/** "h23" or "h12", as CLDR has it for a region; 24 hours for what is no region. Engines have it as a property or as a method (ECMA-402, Intl Locale Info). */
function cycleOf(country: string): string {
  try {
    const info = new Intl.Locale(`und-${country}`) as Intl.Locale & {
      hourCycles?: string[];
      getHourCycles?: () => string[];
    };
    const [first] = info.getHourCycles?.() ?? info.hourCycles ?? [];
    return first === 'h12' ? 'h12' : 'h23';
  } catch {
    return 'h23';
  }
}

/** The choice a locale was made by. A country's own clock may stand in it too: then it is as that country's. */
export function clockOf(locale: string, country: string): Clock {
  if (locale === localeOf(country)) return 'country';
  return locale.endsWith('-u-hc-h12') ? '12' : locale.endsWith('-u-hc-h23') ? '24' : 'country';
}

/**
 * The locale whose numbers a country writes: its own language's, with the digits 0 to 9 ("1 250,50" in France, also in an English message). An unknown country's are
 * as in English.
 */
export function numbersOf(country: string): string {
  try {
    return `${new Intl.Locale(`und-${country}`).maximize().baseName}-u-nu-latn`;
  } catch {
    return 'en-u-nu-latn';
  }
}
