/** What can be taken back, and done again. Values are never changed, only followed by others. */
export interface History<T> {
  readonly past: readonly T[];
  readonly future: readonly T[];
  /** What was done last; null after something was taken back or done again. Times in milliseconds. */
  readonly last: { kind: string; at: number; since: number } | null;
}

/** When what is done is undone together with what was done just before. Times in milliseconds. */
export interface Together {
  /** Nothing was done for so long. */
  pauseMs: number;
  /** The first of them is so long ago. */
  wholeMs: number;
  /** How much can be taken back. */
  most: number;
}

export const noHistory = <T>(): History<T> => ({ past: [], future: [], last: null });

/** `before` is followed by something else. What is of one kind ("" for none) and close in time is one thing, unless it begins `anew`. */
export function noted<T>(
  { past, last }: History<T>,
  before: T,
  { kind, at, anew = false }: { kind: string; at: number; anew?: boolean },
  { pauseMs, wholeMs, most }: Together,
): History<T> {
  const together =
    kind !== '' && last !== null && last.kind === kind && !anew && at - last.at < pauseMs && at - last.since < wholeMs;
  return {
    past: together ? past : [...past.slice(1 - most), before],
    future: [],
    last: { kind, at, since: together ? last.since : at },
  };
}

/** Back to what was before; null where there is nothing. */
export function undone<T>({ past, future }: History<T>, now: T): { history: History<T>; value: T } | null {
  if (past.length === 0) return null;
  return { history: { past: past.slice(0, -1), future: [now, ...future], last: null }, value: past.at(-1)! };
}

/** Forward to what was taken back last; null where nothing was. */
export function redone<T>({ past, future }: History<T>, now: T): { history: History<T>; value: T } | null {
  if (future.length === 0) return null;
  return { history: { past: [...past, now], future: future.slice(1), last: null }, value: future[0]! };
}
