import { BUSINESS_BACK_DAYS } from '../app/account/businesses.ts';
import { tablesOfBusiness } from '../db/tables-of-business.ts';
import { log } from '../log.ts';
import type { Machinery } from '../machinery.ts';

/**
 * Takes out businesses that were removed so long ago that they cannot be put back: every row of theirs, and the sign-ins of people who belong to no other. Table by
 * table, so that a stop in between leaves the rest for the next time.
 */
export async function takeOutRemoved(
  { pool, now }: Pick<Machinery, 'pool' | 'now'>,
  stopping: () => boolean = () => false,
): Promise<number> {
  const { rows } = await pool.query<{ id: string }>(
    `select id from business where removed_at < $1::timestamptz - $2::int * interval '1 day'`,
    [new Date(now()), BUSINESS_BACK_DAYS],
  );
  if (rows.length === 0) return 0;
  const tables = await tablesOfBusiness(pool);
  let gone = 0;
  for (const { id } of rows) {
    const { rows: people } = await pool.query<{ person_id: string }>(
      'select person_id from membership where business_id = $1 and person_id not in (select person_id from membership where business_id <> $1)',
      [id],
    );
    const alone = people.map(({ person_id }) => person_id);
    for (const { name, where, circular } of tables) {
      if (stopping()) return gone;
      // Last, with the business itself: until then it is still somebody's.
      if (name === 'membership') continue;
      const client = await pool.connect();
      try {
        await client.query('begin');
        // The only way notes are taken out (db/audit-chain.sql.ts).
        await client.query(`select set_config('pinebell.audit', 'retire', true)`);
        for (const column of circular)
          await client.query(`update "${name}" set "${column}" = null where ${where}`, [id]);
        await client.query(`delete from "${name}" where ${where}`, [id]);
        await client.query('commit');
      } catch (error) {
        await client.query('rollback').catch(() => {});
        throw error;
      } finally {
        client.release();
      }
    }
    const client = await pool.connect();
    try {
      await client.query('begin');
      await client.query('delete from membership where business_id = $1', [id]);
      await client.query('delete from session where person_id = any($1)', [alone]);
      // Whoever was in it last is in another of theirs now.
      await client.query(
        `update session s set business_id = (select m.business_id from membership m where m.person_id = s.person_id limit 1) where business_id = $1`,
        [id],
      );
      await client.query('delete from business where id = $1', [id]);
      await client.query('commit');
    } catch (error) {
      await client.query('rollback').catch(() => {});
      throw error;
    } finally {
      client.release();
    }
    // What they did elsewhere before they left there still names them.
    for (const person of alone)
      await pool
        .query('delete from person where id = $1 and not exists (select from membership where person_id = $1)', [
          person,
        ])
        .catch((error: Error) => log.info({ scope: 'businesses', err: error }, 'somebody is still named elsewhere'));
    gone++;
  }
  return gone;
}
