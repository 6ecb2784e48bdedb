/** The middle value (R-7, the mean of the two middle ones for an even count); null for an empty list. */
export function median(values: readonly number[]): number | null {
  if (values.length === 0) return null;
  const sorted = [...values].sort((a, b) => a - b);
  const half = (sorted.length - 1) / 2;
  return (sorted[Math.floor(half)]! + sorted[Math.ceil(half)]!) / 2;
}
