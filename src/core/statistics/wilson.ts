import type { Share } from './two-shares.ts';

/** The 97.5 % point of the standard normal distribution: 95 % lie within it on both sides. */
const Z = 1.959963984540054;

/**
 * The range a share lies in with 95 % confidence: Wilson's score interval without continuity correction (E. B. Wilson, J. Amer. Statist. Assoc. 22
 * (1927); method 3 of R. G. Newcombe, Statistics in Medicine 17 (1998)). Null for nobody at all.
 */
export function wilson({ did, of }: Share): { low: number; high: number } | null {
  if (of <= 0) return null;
  const share = did / of;
  const middle = share + (Z * Z) / (2 * of);
  const half = Z * Math.sqrt((share * (1 - share)) / of + (Z * Z) / (4 * of * of));
  const under = 1 + (Z * Z) / of;
  // At the ends the two are equal but for rounding.
  return { low: did === 0 ? 0 : (middle - half) / under, high: did === of ? 1 : (middle + half) / under };
}
