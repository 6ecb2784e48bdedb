const KEY = 'pinebell_used';
const MOST = 3;

type Kept = Record<string, unknown>;

function all(): Kept {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '{}');
    return kept !== null && typeof kept === 'object' && !Array.isArray(kept) ? (kept as Kept) : {};
  } catch {
    return {};
  }
}

/** Ids of what was chosen of late on this device, by what it is ("list"); the newest first. Signing out forgets it (pages/sign-in.astro). */
export function usedOfLate(what: string): string[] {
  const kept = all()[what];
  return Array.isArray(kept) ? kept.filter((id) => typeof id === 'string').slice(0, MOST) : [];
}

export function noteUsed(what: string, id: string): void {
  if (id === '') return;
  const ids = [id, ...usedOfLate(what).filter((other) => other !== id)].slice(0, MOST);
  try {
    localStorage.setItem(KEY, JSON.stringify({ ...all(), [what]: ids }));
  } catch {
    // A device that keeps nothing: then nothing is suggested.
  }
}
