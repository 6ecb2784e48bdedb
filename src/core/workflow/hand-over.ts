/**
 * A definition, or a part of one, in which what was one colleague's is another's: whoever is told, assigned or asked by name, and turns. Where several take
 * turns nobody stands twice, and with nobody to take over the one who leaves is taken out; where they alone were meant, their id stays, and the workflow says
 * that they are gone.
 *
 * @param from id of whoever leaves
 * @param to id of whoever takes over; null for nobody
 */
export function handOverIn<T>(part: T, from: string, to: string | null): T {
  if (typeof part === 'string') return (to !== null && part === from ? to : part) as T;
  if (Array.isArray(part)) {
    const had = part.includes(from);
    const kept = part.filter((one) => one !== from || to !== null).map((one) => handOverIn(one, from, to));
    return (had ? kept.filter((one, at) => typeof one !== 'string' || kept.indexOf(one) === at) : kept) as T;
  }
  if (typeof part === 'object' && part !== null)
    return Object.fromEntries(Object.entries(part).map(([key, value]) => [key, handOverIn(value, from, to)])) as T;
  return part;
}
