import { MARK_KEYS, type MarkKey } from './origin.ts';

/** The parameter a mark stands in. Common practice, no standard; docs/decisions/0059. */
export const LINK_MARKS = {
  site: 'utm_source',
  medium: 'utm_medium',
  campaign: 'utm_campaign',
  adSet: 'utm_term',
  ad: 'utm_content',
} as const satisfies Partial<Record<MarkKey, string>>;
export type LinkMark = keyof typeof LINK_MARKS;
export const LINK_MARK_KEYS = MARK_KEYS.filter((key): key is LinkMark => key in LINK_MARKS);

export type MarkedLink = { ok: true; link: string } | { ok: false; why: string };

/** An address with marks, in place of those it had; what else it asks for and its place in the page stay. Marks that are empty are left out. */
export function markedLink(
  address: string,
  marks: Readonly<Partial<Record<LinkMark, string>>>,
  known: Readonly<Partial<Record<LinkMark, readonly string[]>>> = {},
): MarkedLink {
  const typed = address.trim();
  if (typed === '') return { ok: false, why: 'Put in the address of the page.' };
  const whole = /^[a-z][a-z\d+.-]*:/i.test(typed) ? typed : `https://${typed}`;
  if (!URL.canParse(whole))
    return { ok: false, why: 'That is no address. It looks like https://www.wrenfield.example/trial.' };
  const url = new URL(whole);
  if (url.protocol !== 'https:' && url.protocol !== 'http:')
    return { ok: false, why: 'A page has an address that begins with https://.' };
  for (const key of LINK_MARK_KEYS) {
    url.searchParams.delete(LINK_MARKS[key]);
    const mark = tidyMark(marks[key] ?? '', known[key]);
    if (mark) url.searchParams.set(LINK_MARKS[key], mark);
  }
  return { ok: true, link: url.toString() };
}

/** A mark as it is best written: small letters, a dash for each gap, so that nobody spells it in two ways. Names that are used already stay as they are. */
const tidyMark = (typed: string, known: readonly string[] = []): string =>
  known.includes(typed.trim())
    ? typed.trim()
    : typed
        .trim()
        .toLowerCase()
        .replace(/[\s_]+/g, '-')
        .replace(/-{2,}/g, '-');
