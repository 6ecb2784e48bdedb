import type pg from 'pg';

/** The channel of PostgreSQL notifications that tells open screens to look again. */
export const LIVE_CHANNEL = 'pinebell_live';
const FOLD_MS = 250;

/**
 * Tells open screens of a business that something has happened. Rings are folded into one notification each quarter of a
 * second and never sit in the accepting transaction, where they would make commits wait for each other.
 */
export class Bell {
  private readonly rung = new Set<string>();
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly pool: pg.Pool) {}

  ring(businessId: string): void {
    this.rung.add(businessId);
    this.timer ??= setTimeout(() => void this.tell(), FOLD_MS);
  }

  private async tell(): Promise<void> {
    this.timer = null;
    const ids = [...this.rung];
    this.rung.clear();
    try {
      await this.pool.query('select pg_notify($1, id) from unnest($2::text[]) id', [LIVE_CHANNEL, ids]);
    } catch {
      // A screen that misses one ring looks again at the next, or when it reconnects.
    }
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer);
  }
}
