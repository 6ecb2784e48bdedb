import { placeOfPage } from '../../client/within.ts';
import type { Deed } from './deeds.ts';

/** Of each business its own. */
const keyHere = () => `pinebell_recent${placeOfPage()}`;
const MOST = 6;

/** What was opened by this dialog of late, on this device; the newest first. Signing out forgets it (pages/sign-in.astro). */
export function recentDeeds(): Deed[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyHere()) ?? '[]');
    return Array.isArray(kept)
      ? kept.flatMap((one): Deed[] =>
          typeof one?.href === 'string' && one.href.startsWith('/') && typeof one.words === 'string'
            ? [{ id: `recent:${one.href}`, words: one.words, about: '', does: 'go', href: one.href }]
            : [],
        )
      : [];
  } catch {
    return [];
  }
}

export function noteRecent(deed: Extract<Deed, { does: 'go' }>): void {
  const others = recentDeeds().flatMap((one) => (one.does === 'go' && one.href !== deed.href ? [one] : []));
  const kept = [deed, ...others].slice(0, MOST).map(({ words, href }) => ({ words, href }));
  localStorage.setItem(keyHere(), JSON.stringify(kept));
}
