import type { Db } from '../db.ts';

/** One at a time for whatever happens with a lead and whatever waits for it, until the transaction ends. */
export const lockLead = (client: Db, leadId: string): Promise<unknown> =>
  client.query('select pg_advisory_xact_lock(hashtextextended($1, 17))', [leadId]);
