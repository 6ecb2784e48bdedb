/** The hour of the day, 0 to 23, at an instant in milliseconds, in an IANA time zone. */
export const localHour = (at: number, timeZone: string): number =>
  Number(formatIn(HOURS, 'en-GB', timeZone, { hour: '2-digit', hourCycle: 'h23' }).format(at));

/** The day, as ISO 8601 has it, at an instant in milliseconds, in an IANA time zone. */
export const localDay = (at: number, timeZone: string): string => formatIn(DAYS, 'sv-SE', timeZone, {}).format(at);

// Making a format takes fifty times as long as using it, and this is asked for every message.
const HOURS = new Map<string, Intl.DateTimeFormat>();
const DAYS = new Map<string, Intl.DateTimeFormat>();
function formatIn(
  known: Map<string, Intl.DateTimeFormat>,
  locale: string,
  timeZone: string,
  options: Intl.DateTimeFormatOptions,
) {
  const format = known.get(timeZone) ?? new Intl.DateTimeFormat(locale, { ...options, timeZone });
  known.set(timeZone, format);
  return format;
}
