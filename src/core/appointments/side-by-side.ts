/** Where an appointment stands in its day: in which of how many columns, both counted among those that overlap with one another. */
export interface Beside {
  column: number;
  columns: number;
}

/**
 * Columns for appointments of one day, so that none stands on another: each takes the first column that is free at its time, and those that hang together share
 * the width. Times are numbers of any unit; `shortest` is the room each takes at least. In the order given.
 */
export function sideBySide(times: readonly { start: number; end: number }[], shortest: number): Beside[] {
  const places: Beside[] = times.map(() => ({ column: 0, columns: 1 }));
  const order = times.map((_, i) => i).sort((a, b) => times[a]!.start - times[b]!.start || a - b);
  let together: number[] = [];
  /** When each column is free again. */
  let free: number[] = [];
  const settle = () => {
    for (const i of together) places[i]!.columns = free.length;
    together = [];
    free = [];
  };
  for (const i of order) {
    const { start, end } = times[i]!;
    if (free.every((until) => until <= start)) settle();
    const open = free.findIndex((until) => until <= start);
    const column = open < 0 ? free.length : open;
    free[column] = Math.max(end, start + shortest);
    places[i]!.column = column;
    together.push(i);
  }
  settle();
  return places;
}
