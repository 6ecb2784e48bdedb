import jstat from 'jstat';

const { jStat } = jstat;

/** Differences this unlikely by chance are taken for real. Common practice, no source. */
const LEVEL = 0.05;

/** How often something came, in how long a time. The unit of time does not matter. */
export interface Counted {
  n: number;
  over: number;
}

/**
 * Whether something comes more often than it did: the exact conditional test of two Poisson rates (J. Przyborowski and H. Wilenski, Biometrika 31
 * (1940)). Given both together, the first is binomial; twice the smaller tail.
 */
export function compareCounts(a: Counted, b: Counted): { p: number; more: 'a' | 'b' | null } {
  const n = a.n + b.n;
  if (n === 0 || a.over <= 0 || b.over <= 0) return { p: 1, more: null };
  const share = a.over / (a.over + b.over);
  // P(X >= k) of a binomial is the regularized incomplete beta function I_share(k, n - k + 1) (DLMF 8.17.5).
  const atLeast = (k: number) => (k <= 0 ? 1 : k > n ? 0 : jStat.ibeta(share, k, n - k + 1));
  const p = Math.min(1, 2 * Math.min(atLeast(a.n), 1 - atLeast(a.n + 1)));
  return { p, more: p < LEVEL ? (a.n / a.over > b.n / b.over ? 'a' : 'b') : null };
}
