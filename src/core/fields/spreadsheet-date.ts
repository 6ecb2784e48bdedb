const DAY_MS = 86_400_000;
/** Days from 1899-12-30 to 1970-01-01: what serial numbers from 61 on count from. */
const EPOCH_1900 = 25_569;
/** Days from 1904-01-01 to 1970-01-01. */
const EPOCH_1904 = 24_107;

const two = (n: number) => String(n).padStart(2, '0');

/**
 * A spreadsheet's serial date as text: "2024-01-01", "2024-01-01T12:00:00", or "09:09:09" for a time without a day (a serial
 * under 1). ECMA-376 Part 1 §18.17.4: in the 1900 system serial 1 is 1900-01-01 and 60 the 29 February 1900 that never was; in
 * the 1904 system serial 0 is 1904-01-01. Null for what is no date (negative, or past the year 9999). Seconds are rounded.
 */
export function serialDate(serial: number, system1904 = false): string | null {
  if (!Number.isFinite(serial) || serial < 0) return null;
  const seconds = Math.round((serial % 1) * 86_400);
  const days = Math.floor(serial) + (seconds === 86_400 ? 1 : 0);
  const clock = seconds % 86_400;
  const time = `${two(Math.floor(clock / 3600))}:${two(Math.floor(clock / 60) % 60)}:${two(clock % 60)}`;
  if (serial < 1 && !system1904) return time;
  let day: string;
  if (system1904) day = isoDay(days - EPOCH_1904);
  else if (days === 60) day = '1900-02-29';
  else day = isoDay((days < 60 ? days + 1 : days) - EPOCH_1900);
  if (day.length !== 10) return null;
  return clock === 0 ? day : `${day}T${time}`;
}

const isoDay = (days: number): string => {
  const ms = days * DAY_MS;
  return Math.abs(ms) > 8.64e15 ? '' : new Date(ms).toISOString().slice(0, 10);
};

/** The number formats that are dates or times without a format of their own: ECMA-376 Part 1 §18.8.30. */
const BUILT_IN = new Set([
  14, 15, 16, 17, 18, 19, 20, 21, 22, 27, 28, 29, 30, 31, 32, 33, 34, 35, 36, 45, 46, 47, 50, 51, 52, 53, 54, 55, 56,
  57, 58,
]);

/** Whether a number format shows a date or a time; `code` is the format's own, when it has one. */
export function isDateFormat(id: number, code: string | undefined): boolean {
  if (code === undefined) return BUILT_IN.has(id);
  // Text in quotes, escaped characters, colours and conditions in brackets are not part of the pattern; elapsed time is.
  const pattern = code
    .replace(/"[^"]*"|\\./g, '')
    .replace(/\[(?!h+\]|m+\]|s+\])[^[\]]*\]/gi, '')
    .split(';')[0]!;
  return !/general/i.test(pattern) && /[ymdhs]/i.test(pattern.replace(/e[+-]/gi, ''));
}
