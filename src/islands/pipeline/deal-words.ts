/** What is changed of a deal. */
export type DealPatch = { stageId?: string; nextStep?: string; value?: string };

export const amount = (value: string | null, locale: string) =>
  value === null ? '' : Number(value).toLocaleString(locale, { maximumFractionDigits: 2 });

const days = (since: string, now: number) => Math.floor((now - Date.parse(since)) / 86_400_000);

export const ageWords = (since: string, now: number) => {
  const n = Math.max(0, days(since, now));
  return n === 0 ? 'since today' : n === 1 ? 'for 1 day' : `for ${n} days`;
};
