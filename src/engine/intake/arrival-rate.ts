/** Sources remembered at once; the one heard of longest ago goes first. */
const MOST_SOURCES = 10_000;

/**
 * How many arrivals a source takes: a bucket that holds a minute's worth and fills up evenly. Counted in this process alone, so
 * that a flood costs no database work; with several web processes each has its own bucket.
 */
export class ArrivalRate {
  private readonly buckets = new Map<string, { tokens: number; at: number }>();

  constructor(private readonly now: () => number) {}

  /** Null when one more may come in; else the whole seconds to wait. */
  take(sourceId: string, perMinute: number): number | null {
    const at = this.now();
    const before = this.buckets.get(sourceId) ?? { tokens: perMinute, at };
    const tokens = Math.min(perMinute, before.tokens + ((at - before.at) / 60_000) * perMinute);
    const allowed = tokens >= 1;
    this.buckets.delete(sourceId);
    this.buckets.set(sourceId, { tokens: allowed ? tokens - 1 : tokens, at });
    if (this.buckets.size > MOST_SOURCES) this.buckets.delete(this.buckets.keys().next().value!);
    return allowed ? null : Math.max(1, Math.ceil(((1 - tokens) * 60) / perMinute));
  }
}
