/**
 * Ids as our own things have them: UUIDs, and those of columns. Behind an address of the web they are part of it and mean something there, so that is
 * taken as a whole and left as it is.
 */
const ID = /https?:\/\/[^\s"'<>{}\\]*|[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\bc[0-9a-f]{12}\b/gi;
const isAddress = (found: string): boolean => /^https?:/i.test(found);

/** A word of this form may be one of somebody's text: it is an id only where a column is known by it. */
export const isColumnId = (id: string): boolean => id.startsWith('c');

/** Every id in it, each once, in the order they stand, in whichever text or key. */
export const idsIn = (value: unknown): string[] => [
  ...new Set(
    JSON.stringify(value)
      ?.match(ID)
      ?.filter((found) => !isAddress(found))
      .map((id) => id.toLowerCase()) ?? [],
  ),
];

/**
 * The same with every id in it swapped, in texts and in keys. One that is swapped for null goes: out of a list where it stands alone, else out of its text.
 */
export function swapIds<T>(value: T, to: (id: string) => string | null): T {
  const swap = (text: string): string =>
    text.replace(ID, (found) =>
      isAddress(found) ? found : (to(found.toLowerCase()) ?? (isColumnId(found) ? found : '')),
    );
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
