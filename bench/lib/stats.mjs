export const quantile = (sorted, q) =>
  sorted.length === 0 ? null : sorted[Math.min(sorted.length - 1, Math.ceil(q * sorted.length) - 1)];

export function summary(values, round = 2) {
  const s = Float64Array.from(values).sort();
  const r = (x) => (x === null || x === undefined ? null : Number(x.toFixed(round)));
  return {
    n: s.length,
    p50: r(quantile(s, 0.5)),
    p95: r(quantile(s, 0.95)),
    p99: r(quantile(s, 0.99)),
    max: r(s.at(-1)),
  };
}

export const median = (values) => {
  const s = values.filter((v) => v !== null && v !== undefined).sort((a, b) => a - b);
  if (s.length === 0) return null;
  const m = s.length >> 1;
  return s.length % 2 ? s[m] : (s[m - 1] + s[m]) / 2;
};
