/** Points of the standard normal distribution: 95 % lie within the first on both sides, 80 and 90 % below the others. */
const WITHIN_95 = 1.959963984540054;
const BELOW = { 0.8: 0.8416212335729143, 0.9: 1.2815515655446004 } as const;

/**
 * How many of each half are needed to tell two shares apart at the level of 5 %: the usual sample size for two proportions (two-sided, normal approximation; J. L.
 * Fleiss, Statistical Methods for Rates and Proportions, 1981, without continuity correction). Infinity where they are the same.
 */
export function neededPerHalf(one: number, other: number, power: keyof typeof BELOW = 0.8): number {
  if (one === other) return Number.POSITIVE_INFINITY;
  const middle = (one + other) / 2;
  const apart = WITHIN_95 * Math.sqrt(2 * middle * (1 - middle));
  const sure = BELOW[power] * Math.sqrt(one * (1 - one) + other * (1 - other));
  return ((apart + sure) / (one - other)) ** 2;
}
