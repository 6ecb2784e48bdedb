import { call } from '../client/call.ts';
import { useQuery } from '../client/use-query.ts';
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
  const query = reachQuery({ to, needsConsent, purpose }).toString();
  const asked = useQuery(
    ['audience', query],
    async () => (to === '' ? null : { query, reach: await call('GET', `/api/audience?${query}`) }),
    { first: null, at: 0, live: false },
  );
  // How many another choice would reach is not to be read as this one's.
  return asked.value?.query === query ? asked.value.reach : null;
}
