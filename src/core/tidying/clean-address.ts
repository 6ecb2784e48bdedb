import { WHERE_KEYS } from '../source/where-from.ts';

const noise = (name: string) =>
  name in WHERE_KEYS || /^utm_/i.test(name) || /^[a-z_]{0,20}clid$/i.test(name) || name === 'click_id';

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
