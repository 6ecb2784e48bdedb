import type { WhereFrom } from '../source/where-from.ts';

/** The names a contact is sorted by. Empty where it says nothing. */
export interface Marks {
  site: string;
  medium: string;
  campaign: string;
  adSet: string;
  ad: string;
  form: string;
  page: string;
}
export const MARK_KEYS = [
  'site',
  'medium',
  'campaign',
  'adSet',
  'ad',
  'form',
  'page',
] as const satisfies (keyof Marks)[];
export type MarkKey = (typeof MARK_KEYS)[number];

export const MARK_WORDS: Readonly<Record<MarkKey, { one: string; none: string }>> = {
  site: { one: 'Site source', none: 'No site source' },
  medium: { one: 'Medium', none: 'No medium' },
  campaign: { one: 'Campaign', none: 'No campaign marked' },
  adSet: { one: 'Ad set', none: 'No ad set' },
  ad: { one: 'Ad', none: 'No ad' },
  form: { one: 'Form', none: 'No form' },
  page: { one: 'Page', none: 'No page' },
};

/** A contact as results sort it: its marks, and the lead source it came in by. */
export interface Origin extends Marks {
  sourceId: string | null;
}

const MOST = 200;
const clean = (text: string | undefined): string => (text ?? '').trim().replace(/\s+/g, ' ').slice(0, MOST);
/** The first that says something. */
const either = (...texts: (string | undefined)[]): string => texts.map(clean).find((text) => text !== '') ?? '';

/**
 * Where a contact came from, by the names results are sorted by. What an ad form says of its ad counts before what stands in the link: the link is
 * typed by hand. In links the ad set stands in utm_term and the ad in utm_content (common practice, no source).
 */
export function marksOf(from: WhereFrom): Marks {
  const marks: Marks = {
    site: either(from.utm_source, siteOf(from.referrer)),
    medium: clean(from.utm_medium),
    campaign: either(from.campaign, from.utm_campaign, from.utm_id),
    adSet: either(from.ad_set, from.utm_term),
    ad: either(from.ad, from.utm_content),
    form: clean(from.form),
    page: clean(from.page),
  };
  return marks;
}

/** The host somebody came from, without "www."; nothing where it is no address. */
function siteOf(referrer: string | undefined): string {
  if (!referrer || !URL.canParse(referrer)) return '';
  return new URL(referrer).hostname.replace(/^www\./, '');
}

/** One and the same for every contact from the same place. */
export const originKey = (origin: Origin): string =>
  JSON.stringify([origin.sourceId, ...MARK_KEYS.map((key) => origin[key])]);
