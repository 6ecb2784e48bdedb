import pg from 'pg';
import { log } from '../log.ts';

/**
 * What has been answered "accepted" must be on disk: a server set to confirm before it has written loses the last of them when it falls. And nothing is compiled:
 * our statements take milliseconds, and compiling one that looks dear to the planner takes a third of a second, every time.
 */
export const OURS = `select set_config('jit', 'off', false), case when current_setting('synchronous_commit') = 'off' then set_config('synchronous_commit', 'on', false) end`;

/** A pool that survives its server: a broken idle connection is dropped, not thrown. */
export function openPool(connectionString: string, max: number): pg.Pool {
  const pool = new pg.Pool({
    ...{ connectionString, max, idleTimeoutMillis: 30_000, connectionTimeoutMillis: 5_000 },
    // Waited for before the connection is given out.
    onConnect: async (client) => {
      await client.query(OURS);
    },
  });
  pool.on('connect', (client) => client.on('error', () => {}));
  pool.on('error', (error: Error) => log.error({ scope: 'database', err: error }, 'a connection broke'));
  return pool;
}
