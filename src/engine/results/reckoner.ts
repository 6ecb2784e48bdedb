import type pg from 'pg';
import { inTransaction } from '../../db/in-transaction.ts';
import type { Bell } from '../bell.ts';
import { PlainLoop } from '../loop.ts';
import { RESULTS_LOCK, reckonLeads } from './reckon-leads.ts';

/** Leads reckoned in one transaction. */
const AT_ONCE = 500;

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
    while (!this.loop.stopping) if ((await this.reckonSome()) < AT_ONCE) return;
  }

  /** Reckons all that is due; for tests, and for whoever has just written very much. */
  async reckonAll(): Promise<void> {
    while ((await this.reckonSome()) > 0);
  }

  /** How many were due. */
  private reckonSome(): Promise<number> {
    return inTransaction(this.parts.pool, async (client) => {
      const lock = await client.query<{ got: boolean }>('select pg_try_advisory_xact_lock($1) as got', [RESULTS_LOCK]);
      if (!lock.rows[0]!.got) return 0;
      // What is lost with the power is due again as well: it is reckoned once more.
      await client.query('set local synchronous_commit = off');
      const { rows } = await client.query<{ lead_id: string }>(
        `delete from result_due where id in (select id from result_due where due_at <= now() order by id limit ${AT_ONCE}) returning lead_id`,
      );
      const businesses = await reckonLeads(client, [...new Set(rows.map((row) => row.lead_id))], this.parts.now());
      for (const businessId of businesses) this.parts.bell.ring(businessId);
      return rows.length;
    });
  }
}
