/** Values under what each of them belongs to, in their order (Map.groupBy of ECMAScript 2024, which Node 20 has not). */
export function byKey<K, T>(values: Iterable<T>, keyOf: (value: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const value of values) {
    const key = keyOf(value);
    const group = groups.get(key);
    if (group) group.push(value);
    else groups.set(key, [value]);
  }
  return groups;
}
