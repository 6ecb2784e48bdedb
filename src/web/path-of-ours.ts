/**
 * Where to go on to, from what stands in an address: a path of ours, never a way to another site. Read as a browser reads it (WHATWG URL), which
 * passes over tabs and line ends and takes a backslash for a slash.
 */
export function pathOfOurs(wanted: string | null): string {
  const here = 'http://here.invalid';
  if (!wanted?.startsWith('/') || !URL.canParse(wanted, here)) return '/';
  const { origin, pathname, search, hash } = new URL(wanted, here);
  return origin === here && !pathname.startsWith('//') ? pathname + search + hash : '/';
}
