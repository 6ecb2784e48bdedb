/**
 * Shares a whole number out by weights so that the parts are whole numbers and add up to it exactly: each gets its share rounded down, and what is
 * left goes one by one to the largest remainders, the earlier of two equal ones first (the largest-remainder method, Hamilton's). A negative whole is
 * shared out as its opposite. Weights are not negative, and one of them at least is not 0.
 */
export function apportion(whole: number, weights: readonly number[]): number[] {
  if (whole < 0) return apportion(-whole, weights).map((part) => 0 - part);
  const sum = weights.reduce((a, b) => a + b, 0);
  if (!(sum > 0)) throw new RangeError('apportion: no weight is above 0');
  const exact = weights.map((weight) => (whole * weight) / sum);
  const parts = exact.map(Math.floor);
  const left = whole - parts.reduce((a, b) => a + b, 0);
  const byRemainder = exact.map((share, i) => [i, share - parts[i]!] as const).sort(([i, a], [j, b]) => b - a || i - j);
  // Rounding of large shares can leave one more, or one fewer, than there are parts: then it goes round again.
  for (let n = 0; n < Math.abs(left); n++) parts[byRemainder[n % parts.length]![0]]! += Math.sign(left);
  return parts;
}
