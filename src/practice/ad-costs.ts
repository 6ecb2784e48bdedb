import { createHash } from 'node:crypto';
import type { AdForm, FormEntry } from './world-state.ts';

const DAY = 86_400_000;
/** Lines of a page. */
const PAGE = 200;

/** A number from 0 to 1 that is always the same for the same words. */
const steady = (words: string): number => createHash('sha256').update(words).digest().readUInt32BE(0) / 2 ** 32;

/** What the ads of these forms cost from one day to another (UTC), day by day: an ad costs a little every day, and more on days with entries. Today's is of what has been spent so far. */
export function costsOf(forms: readonly AdForm[], entries: readonly FormEntry[], query: URLSearchParams) {
  const [from, to] = [query.get('from') ?? '', query.get('to') ?? ''];
  if (!/^\d{4}-\d\d-\d\d$/.test(from) || !/^\d{4}-\d\d-\d\d$/.test(to)) return { costs: [], next: null };
  const days: string[] = [];
  for (let at = Date.parse(from); at <= Math.min(Date.parse(to), Date.now()) && days.length < 400; at += DAY)
    days.push(new Date(at).toISOString().slice(0, 10));
  const ads = new Map(forms.filter(({ live }) => live).map((form) => [JSON.stringify(form.ad), form]));
  const lines = days.flatMap((day) =>
    [...ads.values()].map(({ ad }) => {
      const came = entries.filter(
        ({ at, formId }) => at.startsWith(day) && forms.some((form) => form.id === formId && form.ad.ad === ad.ad),
      ).length;
      const luck = steady(`${day} ${ad.campaign} ${ad.ad}`);
      const clicks = 8 + Math.floor(luck * 24) + came * 7;
      return {
        ...{ day, ...ad, site: 'ad-platform', currency: 'GBP' },
        cost: Math.round((2 + luck * 6 + came * 3.2) * 100) / 100,
        ...{ clicks, impressions: clicks * (30 + Math.floor(luck * 40)) },
      };
    }),
  );
  const start = Number(query.get('after') ?? 0) || 0;
  const end = start + PAGE;
  return { costs: lines.slice(start, end), next: end < lines.length ? String(end) : null };
}
