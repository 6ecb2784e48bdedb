import { useEffect, useState } from 'react';
import type { Reach } from '../core/people/left-out.ts';
import type { Purpose } from '../core/workflow/purpose.ts';

export interface ReachAsked {
  to: string;
  needsConsent: boolean;
  purpose: Purpose;
}

export const reachQuery = ({ to, needsConsent, purpose }: ReachAsked): URLSearchParams =>
  new URLSearchParams({ to, consent: needsConsent ? 'given' : '', purpose });

/** How many an email would reach, asked of the server whenever who gets it changes. */
export function useReach({ to, needsConsent, purpose }: ReachAsked): Reach | null {
  const [reach, setReach] = useState<Reach | null>(null);
  useEffect(() => {
    setReach(null);
    if (to === '') return;
    const asked = new AbortController();
    fetch(`/api/audience?${reachQuery({ to, needsConsent, purpose })}`, { signal: asked.signal })
      .then((answer) => (answer.ok ? (answer.json() as Promise<Reach>) : null))
      .then(setReach)
      .catch(() => {});
    return () => asked.abort();
  }, [to, needsConsent, purpose]);
  return reach;
}
