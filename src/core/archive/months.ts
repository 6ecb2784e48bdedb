/** Months are told apart in UTC: what a month is must not change with the clock of the business. */

/** Whole months that stand as they came, beside the one that goes on. */
export const FRESH_MONTHS = 3;
/** How long a business may keep what was sent, in months; null is for good. */
export const KEEPS_MONTHS = [6, 12, 24, 36, 60] as const;

/** The first instant of the month `back` months before the one of `at`. */
export const monthStart = (at: number | Date, back = 0): Date => {
  const date = new Date(at);
  return new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() - back, 1));
};

/** Its first day, "2026-11-01". */
export const monthKey = (at: number | Date): string => monthStart(at).toISOString().slice(0, 10);

/** Before this time nothing stands as it came. */
export const packsBefore = (now: number): Date => monthStart(now, FRESH_MONTHS);

/** Before this time nothing is kept: only whole months go. */
export const keptFrom = (now: number, keepsMonths: number | null): Date | null =>
  keepsMonths === null ? null : monthStart(now, keepsMonths);

/** When a month goes; `month` is its first day. */
export const goesAt = (month: string, keepsMonths: number): Date =>
  monthStart(Date.parse(`${month}T00:00:00Z`), -(keepsMonths + 1));
