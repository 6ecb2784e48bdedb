import { useEffect, useState } from 'react';

export interface Reach {
  people: number;
  reached: number;
}

/** How many an email would reach, asked of the server whenever who gets it changes. */
export function useReach(to: string, needsConsent: boolean): Reach | null {
  const [reach, setReach] = useState<Reach | null>(null);
  useEffect(() => {
    setReach(null);
    if (to === '') return;
    const asked = new AbortController();
    const query = new URLSearchParams({ to, consent: needsConsent ? 'given' : '' });
    fetch(`/api/audience?${query}`, { signal: asked.signal })
      .then((answer) => (answer.ok ? (answer.json() as Promise<Reach>) : null))
      .then(setReach)
      .catch(() => {});
    return () => asked.abort();
  }, [to, needsConsent]);
  return reach;
}

export const reachWords = ({ people, reached }: Reach): string =>
  reached === people
    ? `It would go to ${people} ${people === 1 ? 'person' : 'people'} now.`
    : `It would go to ${reached} of ${people} now: the others have no address, did not agree, or asked for no more.`;
