import pg from 'pg';
import { log } from '../log.ts';

/** A pool that survives its server: a broken idle connection is dropped, not thrown. */
export function openPool(connectionString: string, max: number): pg.Pool {
  const pool = new pg.Pool({ connectionString, max, idleTimeoutMillis: 30_000, connectionTimeoutMillis: 5_000 });
  const told = (error: Error) => log.error({ scope: 'database', err: error }, 'a connection broke');
  pool.on('error', told);
  pool.on('connect', (client) => client.on('error', () => {}));
  return pool;
}
