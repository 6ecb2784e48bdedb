/** How long a batch is on its way before another sets out beside it, in milliseconds; most take two or three. */
const PATIENCE_MS = 12;

/**
 * Shares one database statement among everything that wants to write at the same time: while one batch is on its way, the
 * next gathers. A lone item goes out at once; another batch sets out beside one only when that takes its time (somebody holds what it needs, the
 * disk is slow) or when a whole batch has gathered, since the larger a batch, the less each costs. When a batch fails, its items are tried one by
 * one, so that one bad item fails alone.
 */
export class Batcher<Item, Result> {
  private waiting: {
    item: Item;
    weight: number;
    resolve: (result: Result) => void;
    reject: (error: unknown) => void;
  }[] = [];
  private running = 0;
  private setOutAt = 0;
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly write: (items: Item[]) => Promise<Result[]>,
    private readonly options: {
      /** Most batches on their way at once. */
      parallel: number;
      /** Most items in a batch. */
      most: number;
      mostWeight?: number;
      weight?: (item: Item) => number /** Milliseconds until the same batch is tried again; null to give up. */;
      again?: (error: unknown, tries: number) => number | null;
    },
  ) {}

  add(item: Item): Promise<Result> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ item, weight: this.options.weight?.(item) ?? 1, resolve, reject });
      // After the current turn of the loop, so that lanes that plan together are written together.
      if (this.running < this.options.parallel) queueMicrotask(() => void this.pump());
    });
  }

  private async pump(): Promise<void> {
    if (this.running >= this.options.parallel || this.waiting.length === 0) return;
    if (this.running > 0 && this.waiting.length < this.options.most) {
      const left = this.setOutAt + PATIENCE_MS - performance.now();
      if (left > 0) {
        this.timer ??= setTimeout(() => {
          this.timer = null;
          void this.pump();
        }, left);
        return;
      }
    }
    this.setOutAt = performance.now();
    this.running += 1;
    const batch = this.takeBatch();
    try {
      await this.writeAll(batch);
    } finally {
      this.running -= 1;
      void this.pump();
    }
  }

  private takeBatch() {
    let count = 0;
    let weight = 0;
    while (count < this.waiting.length && count < this.options.most) {
      weight += this.waiting[count]!.weight;
      if (count > 0 && weight > (this.options.mostWeight ?? Number.POSITIVE_INFINITY)) break;
      count += 1;
    }
    return this.waiting.splice(0, count);
  }

  private async writeAll(batch: typeof this.waiting): Promise<void> {
    for (let tries = 0; ; tries++) {
      try {
        const results = await this.write(batch.map((entry) => entry.item));
        for (const [i, entry] of batch.entries()) entry.resolve(results[i] as Result);
        return;
      } catch (error) {
        const pause = this.options.again?.(error, tries) ?? null;
        if (pause !== null) {
          await new Promise((resolve) => setTimeout(resolve, pause));
          continue;
        }
        if (batch.length === 1) {
          batch[0]!.reject(error);
          return;
        }
        for (const entry of batch) await this.writeAll([entry]);
        return;
      }
    }
  }
}
