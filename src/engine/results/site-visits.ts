import { isbot } from 'isbot';
import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { storableText } from '../../core/fields/field.ts';
import { readAs } from '../../core/read-as.ts';
import { VISITOR, whereFromUrl } from '../../core/source/where-from.ts';

/** As public/visits.js sends it. */
const Sent = z.object({
  visitor: z.string().regex(VISITOR),
  address: z.url().max(4000),
  referrer: z.string().max(4000),
  device: z.enum(['phone', 'tablet', 'computer']),
  consent: z.enum(['agreed', 'not asked']),
});

/** Of one site in a minute, in this process: more is no site of a business of ours, or somebody's joke. */
const MOST_A_MINUTE = 1200;
/** Of one visitor in all: nobody comes by more links than that. */
const MOST_OF_ONE = 200;

/** Takes what the snippet on a business's pages tells: by which link somebody nobody knows came. */
export class SiteVisits {
  private minute = 0;
  private readonly counts = new Map<string, number>();

  constructor(private readonly parts: { pool: pg.Pool; now: () => number }) {}

  /** Gives the HTTP status: 204 taken or not worth taking, 404 no such site, 422 not understood, 429 too many. */
  async receive(key: string, body: Buffer, agent: string): Promise<204 | 404 | 422 | 429> {
    const { pool, now } = this.parts;
    const minute = Math.floor(now() / 60_000);
    if (minute !== this.minute) this.counts.clear();
    this.minute = minute;
    const count = (this.counts.get(key) ?? 0) + 1;
    this.counts.set(key, count);
    if (count > MOST_A_MINUTE) return 429;
    let sent: unknown;
    try {
      sent = JSON.parse(storableText(body.toString('utf8')));
    } catch {
      return 422;
    }
    const read = readAs(Sent, sent);
    if (!read.success) return 422;
    if (agent.trim() === '' || isbot(agent)) return 204;
    const { visitor, address, referrer, device, consent } = read.data;
    const { visitor: _, ...where } = whereFromUrl(address);
    const { rows } = await pool.query<{ id: string; business_id: string; asks: boolean }>(
      'update site set seen_at = $2 where key = $1 returning id, business_id, asks',
      [key, new Date(now())],
    );
    const site = rows[0];
    if (!site) return 404;
    // The page says what it does; the site says what it has to.
    if (site.asks && consent !== 'agreed') return 204;
    await pool.query(
      `insert into site_visit (id, business_id, site_id, visitor, at, where_from, consent) select $1::uuid, $2::uuid, $3::uuid, $4::text, $5::timestamptz, $6::jsonb, $7::text
       where (select count(*) from site_visit where business_id = $2 and visitor = $4) < ${MOST_OF_ONE}`,
      [
        ...[uuidv7(), site.business_id, site.id, visitor, new Date(now())],
        JSON.stringify({
          ...where,
          ...(referrer ? { referrer: referrer.slice(0, 500) } : {}),
          device,
          counted: consent,
        }),
        consent,
      ],
    );
    return 204;
  }
}
