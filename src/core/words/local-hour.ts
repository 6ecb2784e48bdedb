/** The hour of the day, 0 to 23, at an instant in milliseconds, in an IANA time zone. */
export function localHour(at: number, timeZone: string): number {
  return Number(new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone }).format(new Date(at)));
}
