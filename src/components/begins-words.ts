const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** Those of which every word typed begins a word; the ones whose name begins with all of it come first, otherwise they stay in their order. */
export function beginWith<One>(
  all: readonly One[],
  typed: string,
  /** What it is called, and all it is found by. */
  of: (one: One) => { name: string; by: string },
): One[] {
  const wanted = words(typed);
  if (wanted.length === 0) return [...all];
  const whole = typed.trim().toLowerCase();
  const fits = all.filter((one) => {
    const there = words(of(one).by);
    return wanted.every((word) => there.some((other) => other.startsWith(word)));
  });
  const begins = (one: One) => of(one).name.toLowerCase().startsWith(whole);
  return [...fits.filter(begins), ...fits.filter((one) => !begins(one))];
}
