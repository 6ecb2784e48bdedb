const formats = new Map<string, Intl.DateTimeFormat>();

/** The day ("YYYY-MM-DD") of an instant, in milliseconds, by the clock of a place (IANA name). For very many of them: an arithmetic calendar takes ten times as long. */
export function dayOf(instant: number, zone: string): string {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-CA', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit' });
    formats.set(zone, format);
  }
  return format.format(instant);
}
