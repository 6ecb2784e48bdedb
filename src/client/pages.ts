/**
 * What a list shows when its newest page has come anew: that page, and of what was shown before whatever is older. Both newest first; `of` gives
 * something that orders them (an id of version 7, a time of ISO 8601).
 */
export function withOlder<T>(newest: readonly T[], shown: readonly T[], of: (one: T) => string): T[] {
  const last = newest.at(-1);
  // Nothing is left: what was shown is gone too.
  if (last === undefined) return [];
  return [...newest, ...shown.filter((one) => of(one) < of(last))];
}
