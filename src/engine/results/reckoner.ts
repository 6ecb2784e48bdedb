import { setTimeout } from 'node:timers/promises';
import type pg from 'pg';
import { inTransaction } from '../../db/in-transaction.ts';
import type { Bell } from '../bell.ts';
import { PlainLoop } from '../loop.ts';
import { RESULTS_LOCK, reckonLeads } from './reckon-leads.ts';

/** Leads reckoned in one transaction. */
const AT_ONCE = 500;
const MOST_REST_MS = 2000;
/** What happens with a lead is due a second later (db/results.sql.ts). */
const SOON_SECONDS = 2;

/** Reckons anew what has come of leads of whom something has changed, and adds the days up again. */
export class Reckoner {
  readonly loop: PlainLoop;

  constructor(private readonly parts: { pool: pg.Pool; bell: Bell; now: () => number }) {
    this.loop = new PlainLoop(
      'results',
      () => this.reckonDue(),
      'exists (select from result_due where due_at <= now())',
    );
  }

  private async reckonDue(): Promise<void> {
    for (let more = true; more && !this.loop.stopping; ) {
      const began = performance.now();
      const due = await this.reckonSome(0);
      more = due === AT_ONCE;
      // Whoever comes in meanwhile is answered first: it rests twice as long as it has worked.
      if (due > 0) await setTimeout(Math.min(MOST_REST_MS, 2 * (performance.now() - began)));
    }
  }

  /** Reckons all that is due, or is about to be; for tests, and for whoever has just written very much. */
  async reckonAll(): Promise<void> {
    while ((await this.reckonSome(SOON_SECONDS)) > 0);
  }

  /** How many were due. */
  private reckonSome(aheadSeconds: number): Promise<number> {
    return inTransaction(this.parts.pool, async (client) => {
      const lock = await client.query<{ got: boolean }>('select pg_try_advisory_xact_lock($1) as got', [RESULTS_LOCK]);
      if (!lock.rows[0]!.got) return 0;
      // What is lost with the power is due again as well: it is reckoned once more.
      await client.query('set local synchronous_commit = off');
      const { rows } = await client.query<{ lead_id: string }>(
        `delete from result_due where id in (select id from result_due where due_at <= now() + $1 * interval '1 s' order by id limit ${AT_ONCE}) returning lead_id`,
        [aheadSeconds],
      );
      const businesses = await reckonLeads(client, [...new Set(rows.map((row) => row.lead_id))], this.parts.now());
      for (const businessId of businesses) this.parts.bell.ring(businessId);
      return rows.length;
    });
  }
}
