import { placeOfPage } from './within.ts';

/** Of each business its own. */
const keyHere = () => `pinebell_used${placeOfPage()}`;
const MOST = 3;

/** Something that was chosen, as it is shown once more. */
export interface Used {
  id: string;
  name: string;
}
type Kept = Record<string, unknown>;

function all(): Kept {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyHere()) ?? '{}');
    return kept !== null && typeof kept === 'object' && !Array.isArray(kept) ? (kept as Kept) : {};
  } catch {
    return {};
  }
}
const isUsed = (one: unknown): one is Used => {
  const { id, name } = (one ?? {}) as Partial<Used>;
  return typeof id === 'string' && typeof name === 'string';
};

/** What was chosen of late on this device, by what it is ("list"); the newest first. Signing out forgets it (pages/sign-in.astro). */
export function usedOfLate(what: string): Used[] {
  const kept = all()[what];
  return Array.isArray(kept) ? kept.filter(isUsed).slice(0, MOST) : [];
}

export function noteUsed(what: string, { id, name }: Used): void {
  if (id === '') return;
  const used = [{ id, name }, ...usedOfLate(what).filter((other) => other.id !== id)].slice(0, MOST);
  try {
    localStorage.setItem(keyHere(), JSON.stringify({ ...all(), [what]: used }));
  } catch {
    // A device that keeps nothing: then nothing is suggested.
  }
}
