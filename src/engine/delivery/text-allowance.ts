import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { localDay } from '../../core/words/local-hour.ts';
import type { Bell } from '../bell.ts';

/** Parts taken from the day at once by one process, so that not every text asks the database; what is left of them at its end is lost for the day. */
const BLOCK = 50;
/** From this share of the day's parts on somebody is told. */
const WARN_AT = 0.8;
/** How often what is held by the ceiling looks again, in milliseconds: it may have been raised, or the day be over. */
export const LOOK_AGAIN_MS = 10 * 60_000;

/** Counts the parts of texts a business sends in a day, by its own clock, and stops where it said it wants to stop. */
export class TextAllowance {
  private readonly left = new Map<string, { day: string; parts: number }>();
  private readonly asking = new Map<string, Promise<unknown>>();

  constructor(private readonly parts: { pool: pg.Pool; bell: Bell; now: () => number }) {}

  /** Whether a text of that many parts may go out now. It is counted with the answer. */
  async take(businessId: string, parts: number, timeZone: string): Promise<boolean> {
    const day = localDay(this.parts.now(), timeZone);
    if (this.takeHere(businessId, day, parts)) return true;
    // One asks for all that wait: many texts at once take one block, and not one each.
    const before = this.asking.get(businessId) ?? Promise.resolve();
    const asked = before.then(
      () => this.takeHere(businessId, day, parts) || this.ask(businessId, day, parts),
      () => this.ask(businessId, day, parts),
    );
    this.asking.set(businessId, asked);
    return asked.finally(() => {
      if (this.asking.get(businessId) === asked) this.asking.delete(businessId);
    });
  }

  private takeHere(businessId: string, day: string, parts: number): boolean {
    const here = this.left.get(businessId);
    if (here?.day !== day || here.parts < parts) return false;
    here.parts -= parts;
    return true;
  }

  private async ask(businessId: string, day: string, parts: number): Promise<boolean> {
    const here = this.left.get(businessId);
    for (const block of parts >= BLOCK ? [parts] : [BLOCK, parts])
      if (await this.reserve(businessId, day, block)) {
        this.left.set(businessId, {
          day,
          parts: (here?.day === day ? here.parts : 0) + block - parts,
        });
        return true;
      }
    await this.tell(
      businessId,
      `texts:${day}:full`,
      'No more texts today',
      'As many texts as you set for a day have gone out. The others are held and lost is none: they go out tomorrow, or soon after you raise the number in Settings. If you did not expect so many, look at what came in.',
    );
    return false;
  }

  private async reserve(businessId: string, day: string, block: number): Promise<boolean> {
    const { rows } = await this.parts.pool.query<{ parts: number; most: number }>(
      `insert into text_day (business_id, day, parts)
       select id, $2, $3 from business where id = $1 and text_parts_per_day >= $3
       on conflict (business_id, day) do update set parts = text_day.parts + $3
         where text_day.parts + $3 <= (select text_parts_per_day from business where id = $1)
       returning parts, (select text_parts_per_day from business where id = $1) as most`,
      [businessId, day, block],
    );
    const row = rows[0];
    if (!row) return false;
    if (row.parts >= row.most * WARN_AT)
      await this.tell(
        businessId,
        `texts:${day}:most`,
        'Four fifths of today’s texts are out',
        `${row.parts} of ${row.most} parts of texts that you set for a day. Beyond that they are held until tomorrow; the number is in Settings.`,
      );
    return true;
  }

  private async tell(businessId: string, subject: string, title: string, detail: string): Promise<void> {
    const { rowCount } = await this.parts.pool.query(
      `insert into needs_you (id, business_id, kind, subject, title, detail, created_at) values ($1, $2, 'text_ceiling', $3, $4, $5, $6)
       on conflict (business_id, subject) do nothing`,
      [uuidv7(), businessId, subject, title, detail, new Date(this.parts.now())],
    );
    if (rowCount) this.parts.bell.ring(businessId);
  }
}
