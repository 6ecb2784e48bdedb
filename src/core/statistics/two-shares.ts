import jstat from 'jstat';

const { jStat } = jstat;

/** Of so many, so many did. */
export interface Share {
  did: number;
  of: number;
}

export interface Compared {
  /** Two-sided; 1 when there is nothing to compare. */
  p: number;
  /** Which is larger beyond chance; null when the difference may well be chance. */
  larger: 'a' | 'b' | null;
}

/** Differences this unlikely by chance are taken for real. Common practice, no source. */
const LEVEL = 0.05;
/** The normal approximation wants so many that did, and that did not, in either group. Common practice, no source. */
const ENOUGH = 5;

/** Compares two shares by the two-proportion z-test with pooled variance; too small numbers are never called a difference. */
export function compareShares(a: Share, b: Share): Compared {
  const nothing: Compared = { p: 1, larger: null };
  if (a.of <= 0 || b.of <= 0) return nothing;
  const pooled = (a.did + b.did) / (a.of + b.of);
  const spread = Math.sqrt(pooled * (1 - pooled) * (1 / a.of + 1 / b.of));
  if (spread === 0) return nothing;
  const z = (a.did / a.of - b.did / b.of) / spread;
  const p = 2 * jStat.normal.cdf(-Math.abs(z), 0, 1);
  const enough = [a, b].every(({ did, of }) => did >= ENOUGH && of - did >= ENOUGH);
  return { p, larger: enough && p < LEVEL ? (z > 0 ? 'a' : 'b') : null };
}
