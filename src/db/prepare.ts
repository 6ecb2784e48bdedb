import { runMigrations } from 'graphile-worker';
import { AUDIT_CHAIN_SQL } from './audit-chain.sql.ts';
import { DAY_COUNTS_SQL } from './day-counts.sql.ts';
import { ELSEWHERE_SQL } from './elsewhere.sql.ts';
import { ACCEPT_SQL } from './hot/accept.sql.ts';
import { DUE_SQL } from './hot/due.sql.ts';
import { LEAD_CHANGE_SQL } from './hot/lead-change.sql.ts';
import { OUTBOX_SQL } from './hot/outbox.sql.ts';
import { PROGRESS_SQL } from './hot/progress.sql.ts';
import { ROW_KEYS_SQL } from './hot/row-keys.sql.ts';
import { WISHES_SQL } from './hot/wishes.sql.ts';
import { openMigratingOrm } from './migrating-orm.ts';
import { openPool } from './pool.ts';
import { RESULTS_SQL } from './results.sql.ts';
import { settleTextCountries } from './text-countries.ts';
import { THEIRS_SQL } from './theirs.sql.ts';
import { TOUCHES_SQL } from './touches.sql.ts';

/** Brings a database up to this version: tables, graphile-worker's schema, the functions of the hot path. Safe to repeat. */
export async function prepareDatabase(databaseUrl: string): Promise<void> {
  const orm = await openMigratingOrm(databaseUrl);
  try {
    await orm.schema.ensureDatabase();
    await orm.migrator.up();
  } finally {
    await orm.close();
  }
  const pool = openPool(databaseUrl, 2);
  try {
    await runMigrations({ pgPool: pool });
    await settleTextCountries(pool);
    await pool.query(
      WISHES_SQL +
        LEAD_CHANGE_SQL +
        ACCEPT_SQL +
        PROGRESS_SQL +
        DUE_SQL +
        OUTBOX_SQL +
        ROW_KEYS_SQL +
        DAY_COUNTS_SQL +
        RESULTS_SQL +
        TOUCHES_SQL +
        AUDIT_CHAIN_SQL +
        THEIRS_SQL +
        ELSEWHERE_SQL,
    );
  } finally {
    await pool.end();
  }
}
