import type { Machinery } from '../machinery.ts';

/** Throws out what is past its time: sign-ins that have ended, failed ones older than a day. */
export async function housekeeping({ pool }: Pick<Machinery, 'pool'>): Promise<void> {
  await pool.query(`delete from session where expires_at < now()`);
  await pool.query(`delete from guess where since < now() - interval '1 day'`);
}
