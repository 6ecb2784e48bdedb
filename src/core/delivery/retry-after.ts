const IMF = /^(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun), (\d{2}) (\w{3}) (\d{4}) (\d{2}):(\d{2}):(\d{2}) GMT$/;
const RFC850 = /^(?:Mon|Tues|Wednes|Thurs|Fri|Satur|Sun)day, (\d{2})-(\w{3})-(\d{2}) (\d{2}):(\d{2}):(\d{2}) GMT$/;
const ASCTIME = /^(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun) (\w{3}) ([ \d]\d) (\d{2}):(\d{2}):(\d{2}) (\d{4})$/;
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** An HTTP-date in any of the three forms of RFC 9110 §5.6.7, as milliseconds since 1970; null when it is none. */
export function httpDate(text: string, now: number): number | null {
  const at = (year: number, month: string, ...rest: [number, number, number, number]) => {
    const index = MONTHS.indexOf(month);
    return index < 0 ? null : Date.UTC(year, index, ...rest);
  };
  let m = IMF.exec(text);
  if (m) return at(Number(m[3]), m[2]!, Number(m[1]), Number(m[4]), Number(m[5]), Number(m[6]));
  m = RFC850.exec(text);
  if (m) {
    // A two-digit year more than 50 years ahead means the last century (§5.6.7).
    const thisYear = new Date(now).getUTCFullYear();
    let year = Math.floor(thisYear / 100) * 100 + Number(m[3]);
    if (year > thisYear + 50) year -= 100;
    return at(year, m[2]!, Number(m[1]), Number(m[4]), Number(m[5]), Number(m[6]));
  }
  m = ASCTIME.exec(text);
  if (m) return at(Number(m[6]), m[1]!, Number(m[2]), Number(m[3]), Number(m[4]), Number(m[5]));
  return null;
}

/** Milliseconds to wait by a Retry-After header (RFC 9110 §10.2.3); null when absent or not understood. */
export function retryAfterMs(header: string | null, now: number): number | null {
  const text = header?.trim();
  if (!text) return null;
  // Ten centuries and more are as good as any other wait that is not kept to.
  if (/^\d+$/.test(text)) return Math.min(Number(text), 1e10) * 1000;
  const date = httpDate(text, now);
  return date === null ? null : Math.max(0, date - now);
}
