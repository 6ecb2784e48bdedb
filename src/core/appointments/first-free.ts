/** Times in milliseconds since 1970. */
export interface Span {
  start: number;
  end: number;
}

/** When `length` milliseconds are free from `from` on, past what is taken. */
export function firstFree(taken: readonly Span[], from: number, length: number): number {
  let start = from;
  for (const one of [...taken].sort((a, b) => a.start - b.start)) {
    if (one.end <= start) continue;
    if (one.start >= start + length) break;
    start = one.end;
  }
  return start;
}
