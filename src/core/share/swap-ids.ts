/** Ids as our own things have them: UUIDs, and those of columns. */
const ID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\bc[0-9a-f]{12}\b/gi;

/** Every id in it, each once, in the order they stand, in whichever text or key. */
export const idsIn = (value: unknown): string[] => [
  ...new Set(
    JSON.stringify(value)
      ?.match(ID)
      ?.map((id) => id.toLowerCase()) ?? [],
  ),
];

/**
 * The same with every id in it swapped, in texts and in keys. One that is swapped for null goes: out of a list where it stands alone, else out of its text.
 */
export function swapIds<T>(value: T, to: (id: string) => string | null): T {
  const swap = (text: string): string => text.replace(ID, (id) => to(id.toLowerCase()) ?? '');
  const gone = (one: unknown): boolean =>
    typeof one === 'string' && one !== '' && one.replace(ID, '') === '' && swap(one) === '';
  const inside = (one: unknown): unknown => {
    if (typeof one === 'string') return swap(one);
    if (Array.isArray(one)) return one.filter((item) => !gone(item)).map(inside);
    if (one === null || typeof one !== 'object') return one;
    return Object.fromEntries(
      Object.entries(one).flatMap(([key, item]) => (gone(key) ? [] : [[swap(key), inside(item)]])),
    );
  };
  return inside(value) as T;
}
