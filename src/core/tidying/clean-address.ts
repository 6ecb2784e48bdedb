import { isClickId } from '../source/where-from.ts';

/** What only says where a click came from. Nothing else is taken away: "page" or "ad" may well be what the page is found by. */
const noise = (name: string) => /^utm_[a-z_]+$/i.test(name) || isClickId(name.toLowerCase());

/**
 * A web address as it is written in full (WHATWG URL): with its scheme, its host in small letters, without what only says where
 * a click came from. Null for what is none.
 */
export function cleanAddress(typed: string): string | null {
  const text = typed.trim();
  if (/\s/.test(text) || text === '') return null;
  const whole = /^[a-z][a-z0-9+.-]*:\/\//i.test(text) ? text : `https://${text}`;
  if (!URL.canParse(whole)) return null;
  const url = new URL(whole);
  if (!['http:', 'https:'].includes(url.protocol) || !url.hostname.includes('.')) return null;
  for (const name of [...url.searchParams.keys()]) if (noise(name)) url.searchParams.delete(name);
  const out = url.toString();
  return url.pathname === '/' && url.search === '' && url.hash === '' ? out.replace(/\/$/, '') : out;
}
