import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { prepareDatabase } from '../../src/db/prepare.ts';
import { closeSharedStage } from './shared-stage.ts';

type Cluster = Awaited<ReturnType<typeof startPostgres>> & { folder: string };
// On globalThis: the test runner may load this file a second time for its hooks.
const held = globalThis as { pineBellCluster?: Promise<Cluster> };
let count = 0;

/** One real PostgreSQL for all tests of a process, made when the first asks for it. It need not outlive a power cut. */
export function testCluster(): Promise<Cluster> {
  held.pineBellCluster ??= (async () => {
    const folder = mkdtempSync(join(tmpdir(), 'pine-bell-test-'));
    return { ...(await startPostgres(folder, { fast: true })), folder };
  })();
  return held.pineBellCluster;
}

/** A new database with everything in place. */
export async function testDatabase(): Promise<string> {
  const url = (await testCluster()).url(`test_${process.pid}_${++count}`);
  await prepareDatabase(url);
  return url;
}

/** A copy of a database nobody is connected to. */
export async function copyDatabase(url: string): Promise<string> {
  const cluster = await testCluster();
  const name = `test_${process.pid}_${++count}`;
  const admin = new pg.Client({ connectionString: cluster.url('postgres') });
  await admin.connect();
  try {
    await admin.query(`create database "${name}" template "${new URL(url).pathname.slice(1)}"`);
  } finally {
    await admin.end();
  }
  // A copied sequence believes that values ahead of it are in the log already, which they are in the original's: after a crash it would give out once
  // more what it has given out. Set anew, it writes them.
  const made = new pg.Client({ connectionString: cluster.url(name) });
  await made.connect();
  try {
    await made.query(
      `select setval(format('%I.%I', schemaname, sequencename)::regclass, coalesce(last_value, 1), last_value is not null) from pg_sequences`,
    );
  } finally {
    await made.end();
  }
  return cluster.url(name);
}

export const mochaHooks = {
  async afterAll() {
    await closeSharedStage();
    const made = await held.pineBellCluster;
    if (!made) return;
    made.stop('immediate');
    rmSync(made.folder, { recursive: true, force: true });
  },
};
