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
  device: 'Device',
  counted: 'Counting their visit',
} as const;
export type WhereKey = keyof typeof WHERE_KEYS;
/** `visitor` is the random name our snippet gave to a browser: it ties visits to a person, and is nobody's to read. */
export type WhereFrom = Partial<Record<WhereKey | 'visitor', string>>;

/** As public/visits.js makes it: 128 bits as base64url. */
export const VISITOR = /^[\w-]{22}$/;
/** The field of a form it comes in. */
const VISITOR_FIELD = 'pb_visitor';
/** Told by our own pages, never taken from a field somebody has called so. */
const NOT_FROM_FIELDS = new Set(['form', 'page', 'device', 'counted']);

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
    if (name === VISITOR_FIELD && VISITOR.test(value)) found.visitor ??= value;
    else if (isClickId(name) && value && found.click_id === undefined) found.click_id = value.slice(0, 500);
    else if (isWhereKey(name) && !NOT_FROM_FIELDS.has(name) && value && found[name] === undefined)
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
