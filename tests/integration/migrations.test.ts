import { readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect } from 'chai';
import pg from 'pg';
import { openMigratingOrm } from '../../src/db/migrating-orm.ts';
import { prepareDatabase } from '../../src/db/prepare.ts';
import { fillDatabase } from '../stage/filled-database.ts';
import { testCluster, testDatabase } from '../stage/postgres.ts';

const NAMES = readdirSync(fileURLToPath(new URL('../../src/db/migrations', import.meta.url)))
  .filter((file) => file.startsWith('Migration'))
  .map((file) => file.replace('.ts', ''))
  .sort();

/** Tables a later version has no place for: what they held is of no use to it. */
const GONE = ['sign_in_failure'];

/** Every column, constraint and index there is. */
const SHAPE = `
  select 'column' as what, table_name || '.' || column_name || ' ' || data_type || ' ' || is_nullable || ' ' || coalesce(column_default, '') as words
    from information_schema.columns where table_schema = 'public'
  union all select 'constraint', conrelid::regclass || ' ' || conname || ' ' || pg_get_constraintdef(oid) from pg_constraint where connamespace = 'public'::regnamespace
  union all select 'index', indexdef from pg_indexes where schemaname = 'public' order by 1, 2`;

describe('a database of an earlier version', function () {
  this.timeout(60_000);
  it('opens, whichever it is: each step up finds rows in every table there is by then, and leaves every one of them', async () => {
    const fresh = new pg.Client({ connectionString: await testDatabase() });
    await fresh.connect();
    const shape = (await fresh.query(SHAPE)).rows;
    await fresh.end();

    const url = (await testCluster()).url(`earlier_${process.pid}`);
    const orm = await openMigratingOrm(url);
    await orm.schema.ensureDatabase();
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    try {
      let rows = new Map<string, number>();
      const kept = async (version: string) => {
        for (const [table, before] of rows) {
          if (GONE.includes(table)) continue;
          const { rows: after } = await client.query(`select count(*)::int as n from "${table}"`);
          expect(after[0].n, `rows of ${table} after ${version}`).to.be.at.least(before);
        }
      };
      for (const version of NAMES) {
        await orm.migrator.up({ to: version });
        await kept(version);
        rows = await fillDatabase(client);
        expect(Math.min(...rows.values()), `a table of ${version} without a row`).to.be.above(0);
      }
      await prepareDatabase(url);
      await kept('all is prepared');
      expect((await client.query(SHAPE)).rows).to.deep.equal(shape);
    } finally {
      await client.end();
      await orm.close();
    }
  });
});
