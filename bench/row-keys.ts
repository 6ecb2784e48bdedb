/**
 * The last part of npm run bench: a row found by its key in a tab of BENCH_ROWS rows (1,000,000), as a row step finds it, and what keeping the keys costs.
 * PostgreSQL alone, one connection.
 */
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { rowByKey } from '../src/db/hot/row-keys.sql.ts';
import { prepareDatabase } from '../src/db/prepare.ts';

const ROWS = Number(process.env.BENCH_ROWS ?? 1_000_000);
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
const url = cluster.url('bench_row_keys');
await prepareDatabase(url);
const db = new pg.Client({ connectionString: url });
await db.connect();

const timed = async (work: () => Promise<unknown>): Promise<number> => {
  const began = performance.now();
  await work();
  return performance.now() - began;
};
const tab = randomUUID();
const business = randomUUID();
const sheet = randomUUID();
await db.query(
  `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'Bench', 'GB', 'en-GB', 'UTC', now())`,
  [business],
);
await db.query(`insert into sheet (id, business_id, name, created_at) values ($1, $2, 'People', now())`, [
  sheet,
  business,
]);
await db.query(
  `insert into sheet_tab (id, sheet_id, name, position, columns, created_at) values ($1, $2, 'Tab', 0, '[]', now())`,
  [tab, sheet],
);
const fill = (from: number, to: number) =>
  db.query(
    `insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
     select gen_random_uuid(), $1, n, jsonb_build_object('c1', 'person' || n || '@example.org', 'c2', 'Person ' || n), 0, now() from generate_series($2::int, $3::int) n`,
    [tab, from, to],
  );
await fill(1, ROWS);
await db.query('analyze');
const without = await timed(() => fill(ROWS + 1, ROWS + 10_000));
const first = await timed(() => rowByKey(db, tab, 'c1', 'nobody@example.org'));
const looks: number[] = [];
for (let i = 0; i < 500; i++) {
  const n = 1 + Math.floor(Math.random() * ROWS);
  looks.push(
    await timed(async () => {
      if ((await rowByKey(db, tab, 'c1', ` Person${n}@example.org `)) === null)
        throw new Error(`row ${n} is not found`);
    }),
  );
}
looks.sort((a, b) => a - b);
const beside = await timed(() => fill(ROWS + 10_001, ROWS + 20_000));
const read = await timed(() =>
  db.query(
    'select id from sheet_row where tab_id = $1 and lower(trim(cells ->> $2)) = lower(trim($3)) order by position limit 1',
    [tab, 'c1', `person${ROWS}@example.org`],
  ),
);
console.log(`
| a tab of ${ROWS.toLocaleString('en')} rows | ms |
| --- | --- |
| a row by its key, p50 / p99 of 500 | ${looks[250]!.toFixed(1)} / ${looks[495]!.toFixed(1)} |
| the first look in a column, which keeps the words of all rows | ${first.toFixed(0)} |
| the same row by reading the tab | ${read.toFixed(0)} |
| 10,000 rows put in, before and since the column is looked in | ${without.toFixed(0)} / ${beside.toFixed(0)} |`);
await db.end();
cluster.stop('immediate');
rmSync(folder, { recursive: true, force: true });
