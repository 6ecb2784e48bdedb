import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import type { Bell } from '../bell.ts';
import type { KnownSource, SettingsCache } from '../settings-cache.ts';

const WINDOW_MS = 10 * 60_000;
/** A source that brings this many times its usual is held and asked about, but never for fewer than `FEWEST` in ten minutes. */
const TIMES = 20;
const FEWEST = 200;
/** Before it has been here for so long nobody knows what is usual. */
const KNOWN_AFTER_DAYS = 3;
const USUAL_DAYS = 14;
/** Who has looked at a flood and put the source live again is not asked about it for so long. */
const ASKED_HOURS = 24;
const MOST_SOURCES = 10_000;

/**
 * Pauses a source that suddenly brings far more than it ever did: what comes from then on is kept, and nobody is written to until somebody has looked.
 * Counted in this process alone, so that a flood costs no work of the database; with several web processes each has its own count.
 */
export class FloodBreaker {
  private readonly windows = new Map<string, { since: number; count: number; limit: Promise<number> | null }>();

  constructor(private readonly parts: { pool: pg.Pool; bell: Bell; settingsCache: SettingsCache; now: () => number }) {}

  /** Notes that something came in. */
  async came(source: KnownSource): Promise<void> {
    const now = this.parts.now();
    let window = this.windows.get(source.id);
    if (!window || now - window.since > WINDOW_MS) {
      this.windows.delete(source.id);
      window = { since: now, count: 0, limit: null };
      this.windows.set(source.id, window);
      if (this.windows.size > MOST_SOURCES) this.windows.delete(this.windows.keys().next().value!);
    }
    window.count += 1;
    if (window.count <= FEWEST) return;
    // Asked once for a window, and only by a source that brings much.
    window.limit ??= this.limitOf(source.id);
    if (window.count <= (await window.limit)) return;
    this.windows.delete(source.id);
    await this.hold(source, window.count);
  }

  private async limitOf(sourceId: string): Promise<number> {
    const { rows } = await this.parts.pool.query<{ n: number; known: boolean; asked: boolean }>(
      `select count(*)::int as n, coalesce((select received_at from arrival where source_id = $1 order by received_at limit 1) < now() - interval '${KNOWN_AFTER_DAYS} days', false) as known,
         exists (select from needs_you where source_id = $1 and kind = 'source_flood' and created_at > now() - interval '${ASKED_HOURS} hours') as asked
       from arrival where source_id = $1 and received_at > now() - interval '${USUAL_DAYS} days' and received_at < now() - interval '10 minutes'`,
      [sourceId],
    );
    const { n, known, asked } = rows[0]!;
    const usual = n / ((USUAL_DAYS * 86_400_000) / WINDOW_MS);
    return known && !asked ? Math.max(FEWEST, TIMES * usual) : Number.POSITIVE_INFINITY;
  }

  private async hold(source: KnownSource, count: number): Promise<void> {
    const { pool, bell, settingsCache, now } = this.parts;
    const { rowCount } = await pool.query(`update source set state = 'paused' where id = $1 and state = 'live'`, [
      source.id,
    ]);
    if (!rowCount) return;
    settingsCache.forget();
    await pool.query(
      `insert into needs_you (id, business_id, kind, subject, title, detail, source_id, created_at) values ($1, $2, 'source_flood', $3, $4, $5, $6, $7)
       on conflict (business_id, subject) do nothing`,
      [
        uuidv7(),
        source.business.id,
        `source:${source.id}:flood:${new Date(now()).toISOString()}`,
        `${source.name}: far more than usual`,
        `${count} in ten minutes, more than ${TIMES} times what it usually brings. It was paused: what comes is kept, and nobody is written to. Look at what came in; if it is right, put it live again and handle what was kept.`,
        source.id,
        new Date(now()),
      ],
    );
    bell.ring(source.business.id);
  }
}
