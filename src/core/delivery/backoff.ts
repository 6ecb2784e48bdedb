export interface RetryRule {
  /** First bound in milliseconds; doubles with each attempt. */
  baseMs: number;
  /** Largest bound in milliseconds. */
  capMs: number;
  /** How long after the first attempt trying goes on, in milliseconds. */
  giveUpAfterMs: number;
}

/** Longest wait another side can ask of us, milliseconds: one that is asked for by mistake must not silence a source for weeks. Our own choice. */
export const MOST_ASKED_MS = 60 * 60_000;

/** What goes outside: tried again for as many minutes as the step says. Base and cap are common practice, no source. */
export const retryFor = (minutes: number): RetryRule => ({
  baseMs: 1000,
  capMs: 60_000,
  giveUpAfterMs: minutes * 60_000,
});

/**
 * Exponential backoff with full jitter: uniform on [0, min(cap, base·2^attempt)], `attempt` counting from 0. `random` is
 * uniform on [0, 1). A wait the other side asked for (Retry-After) is a floor under it, up to an hour: asked for more, we ask again then.
 */
export function retryDelayMs(rule: RetryRule, attempt: number, askedMs: number | null, random: number): number {
  const bound = Math.min(rule.capMs, rule.baseMs * 2 ** Math.min(attempt, 30));
  const jitter = Math.floor(random * bound);
  return askedMs === null ? jitter : Math.min(askedMs, MOST_ASKED_MS) + Math.floor(random * rule.baseMs);
}
