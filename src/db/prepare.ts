import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import { ACCEPT_SQL } from './hot/accept.sql.ts';
import { DUE_SQL } from './hot/due.sql.ts';
import { PROGRESS_SQL } from './hot/progress.sql.ts';
import { WISHES_SQL } from './hot/wishes.sql.ts';
import { openOrm } from './orm.ts';

/** Brings a database up to this version: tables, graphile-worker's schema, the functions of the hot path. Safe to repeat. */
export async function prepareDatabase(databaseUrl: string): Promise<void> {
  const orm = await openOrm(databaseUrl);
  try {
    await orm.schema.ensureDatabase();
    await orm.migrator.up();
  } finally {
    await orm.close();
  }
  const pool = openPool(databaseUrl, 2);
  try {
    await runMigrations({ pgPool: pool });
    await pool.query(WISHES_SQL + ACCEPT_SQL + PROGRESS_SQL + DUE_SQL);
  } finally {
    await pool.end();
  }
}

/** A pool that survives its server: a broken idle connection is dropped, not thrown. */
export function openPool(connectionString: string, max: number): pg.Pool {
  const pool = new pg.Pool({ connectionString, max, idleTimeoutMillis: 30_000, connectionTimeoutMillis: 5_000 });
  const told = (error: Error) => console.error(`database connection: ${error.message}`);
  pool.on('error', told);
  pool.on('connect', (client) => client.on('error', () => {}));
  return pool;
}
