import type { Runtime } from '../runtime.ts';

/** Throws out what is past its time: sign-ins that have ended, failed ones older than a day. */
export async function housekeeping(runtime: Runtime): Promise<void> {
  await runtime.pool.query(`delete from session where expires_at < now()`);
  await runtime.pool.query(`delete from sign_in_failure where at < now() - interval '1 day'`);
}
