/** A time of day ("15:30") as a locale writes it: "15:30", or "3:30 pm" where a day has twice twelve hours. What is no time stays as it is. */
export function timeOfDay(time: string, locale: string): string {
  const match = /^(\d{1,2}):(\d{2})$/.exec(time);
  if (!match) return time;
  const { hourCycle } = new Intl.DateTimeFormat(locale, { hour: 'numeric' }).resolvedOptions();
  if (hourCycle !== 'h12' && hourCycle !== 'h11') return time;
  const hour = Number(match[1]);
  return `${hour % 12 === 0 ? 12 : hour % 12}:${match[2]} ${hour < 12 ? 'am' : 'pm'}`;
}
