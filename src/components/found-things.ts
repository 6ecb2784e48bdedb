/** Something of the business that has a name. */
export interface Thing {
  id: string;
  name: string;
  /** What tells it apart from another of the same name: where it is, what is in it. */
  about?: string | undefined;
}

const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** The things that fit: every word typed begins a word of the name or of what is said about it. Those whose name begins so come first. */
export function foundThings<One extends Thing>(things: readonly One[], typed: string): One[] {
  const wanted = words(typed);
  if (wanted.length === 0) return [...things];
  const whole = typed.trim().toLowerCase();
  const fits = things.filter(({ name, about = '' }) => {
    const there = words(`${name} ${about}`);
    return wanted.every((word) => there.some((other) => other.startsWith(word)));
  });
  const begins = ({ name }: One) => name.toLowerCase().startsWith(whole);
  return [...fits.filter(begins), ...fits.filter((one) => !begins(one))];
}
