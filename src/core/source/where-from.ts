import type { Field } from '../fields/field.ts';

/** Where a lead came from. Names of the UTM parameters are convention, there is no standard. */
export const WHERE_KEYS = {
  campaign: 'Ad campaign',
  ad_set: 'Ad set',
  ad: 'Ad',
  form: 'Form',
  page: 'Page',
  utm_source: 'Site source',
  utm_medium: 'Medium',
  utm_campaign: 'Campaign',
  utm_content: 'Content',
  utm_term: 'Term',
  utm_id: 'Campaign ID',
  click_id: 'Click ID',
  referrer: 'Came from',
  landing_page: 'Landing page',
} as const;
export type WhereKey = keyof typeof WHERE_KEYS;
export type WhereFrom = Partial<Record<WhereKey, string>>;

/**
 * Parameters that ad networks add to a link to recognise the click. Common practice, no standard: any name that ends in
 * "clid", and "click_id" itself.
 */
export const isClickId = (name: string): boolean => name === 'click_id' || /^[a-z_]{0,20}clid$/.test(name);

export const isWhereKey = (name: string): name is WhereKey => Object.hasOwn(WHERE_KEYS, name);

/** Finds UTM values and the like among the fields of an entry by their names; the first of each name counts. */
export function findWhereFrom(fields: readonly Field[]): WhereFrom {
  const found: WhereFrom = {};
  for (const { key, value } of fields) {
    const name = (key.split('.').at(-1) ?? '').toLowerCase().replaceAll('-', '_');
    if (isClickId(name) && value && found.click_id === undefined) found.click_id = value.slice(0, 500);
    else if (isWhereKey(name) && name !== 'form' && name !== 'page' && value && found[name] === undefined)
      found[name] = value.slice(0, 500);
  }
  return found;
}

/** Label and value of each, in the order people read them. */
export const whereWords = (from: WhereFrom): [key: WhereKey, label: string, value: string][] =>
  (Object.keys(WHERE_KEYS) as WhereKey[]).flatMap((key) => (from[key] ? [[key, WHERE_KEYS[key], from[key]]] : []));

/** What the address of a landing page says about where its visitor came from (WHATWG URL query; the first of each name counts). */
export function whereFromUrl(address: string): WhereFrom {
  if (!URL.canParse(address)) return {};
  const { searchParams, origin, pathname } = new URL(address);
  const fields = [...searchParams].map(([key, value]) => ({ key, label: key, value }));
  return { ...findWhereFrom(fields), landing_page: `${origin}${pathname}`.slice(0, 500) };
}
