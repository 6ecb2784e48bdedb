/** How instants are shown: in the business's locale and time zone. */
export interface Place {
  locale: string;
  timeZone: string;
}

const formats = new Map<string, Intl.DateTimeFormat>();
function format(place: Place, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${place.locale} ${place.timeZone} ${JSON.stringify(options)}`;
  const made = formats.get(key) ?? new Intl.DateTimeFormat(place.locale, { timeZone: place.timeZone, ...options });
  formats.set(key, made);
  return made;
}

const HOUR = { '24': { hour: '2-digit', minute: '2-digit' }, '12': { hour: 'numeric', minute: '2-digit' } } as const;

/** Whether a locale counts the hours of a day to 24 (09:47) or twice to 12 (9:47 am). */
const clockOf = (locale: string): '12' | '24' => {
  const known = clocks.get(locale);
  if (known) return known;
  const { hourCycle } = new Intl.DateTimeFormat(locale, { hour: 'numeric' }).resolvedOptions();
  const found = hourCycle === 'h12' || hourCycle === 'h11' ? '12' : '24';
  clocks.set(locale, found);
  return found;
};
/** Data of some years has a narrow space before am and pm, which a browser and the server then write differently. */
const plainSpaces = (text: string): string => text.replaceAll('\u202f', ' ');
const clocks = new Map<string, '12' | '24'>();

/** "09:47", or "9:47 am" where a day has twice twelve hours. */
export const clockTime = (iso: string, place: Place): string =>
  plainSpaces(format(place, HOUR[clockOf(place.locale)]).format(new Date(iso)));
/** "09:47:12", or "9:47:12 am". */
export const clockSeconds = (iso: string, place: Place): string =>
  plainSpaces(format(place, { ...HOUR[clockOf(place.locale)], second: '2-digit' }).format(new Date(iso)));
/** "17 Nov 2026" as a key for comparing days. */
export const dayKey = (iso: string, place: Place): string =>
  format(place, { year: 'numeric', month: '2-digit', day: '2-digit' }).format(new Date(iso));
/** "Tuesday 17 November". */
export const dayWords = (iso: string, place: Place): string =>
  format(place, { weekday: 'long', day: 'numeric', month: 'long' }).format(new Date(iso)).replace(',', '');

/** "09:47" today, "Tue 17 Nov, 21:40" otherwise. `now` in milliseconds. */
export function whenWords(iso: string, now: number, place: Place): string {
  if (dayKey(iso, place) === dayKey(new Date(now).toISOString(), place)) return clockTime(iso, place);
  return `${format(place, { weekday: 'short', day: 'numeric', month: 'short' }).format(new Date(iso)).replace(',', '')}, ${clockTime(iso, place)}`;
}

/** "Wed 26 Nov, 09:00 in Lisbon": an instant (milliseconds) by the clock of a place. */
export function momentWords(at: number, timeZone: string, locale: string): string {
  const iso = new Date(at).toISOString();
  const place = { locale, timeZone };
  const day = format(place, { weekday: 'short', day: 'numeric', month: 'short' }).format(at).replace(',', '');
  return `${day}, ${clockTime(iso, place)} in ${(timeZone.split('/').at(-1) ?? timeZone).replaceAll('_', ' ')}`;
}

/** The exact instant, for hovering. */
export const exactWords = (iso: string, place: Place): string =>
  format(place, { dateStyle: 'full', timeStyle: 'long' }).format(new Date(iso));

/** "3 Nov" of a day ("YYYY-MM-DD"), and "3 Nov 2025" with its year. */
export const dayMonth = (day: string, locale: string, year = false): string =>
  format({ locale, timeZone: 'UTC' }, { day: 'numeric', month: 'short', ...(year ? { year: 'numeric' } : {}) }).format(
    new Date(`${day}T12:00:00Z`),
  );

/** The days of a week from Monday, short: "Mon". */
export function weekdayNames(locale: string): string[] {
  const short = new Intl.DateTimeFormat(locale, { weekday: 'short', timeZone: 'UTC' });
  // 2024 began on a Monday.
  return Array.from({ length: 7 }, (_, i) => short.format(Date.UTC(2024, 0, 1 + i)));
}
