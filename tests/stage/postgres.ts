import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { prepareDatabase } from '../../src/db/prepare.ts';

type Cluster = Awaited<ReturnType<typeof startPostgres>> & { folder: string };
let cluster: Promise<Cluster> | null = null;
let count = 0;

/** One real PostgreSQL for all tests of a run, made when the first asks for it. */
export function testCluster(): Promise<Cluster> {
  cluster ??= (async () => {
    const folder = mkdtempSync(join(tmpdir(), 'pine-bell-test-'));
    return { ...(await startPostgres(folder)), folder };
  })();
  return cluster;
}

/** A new database with everything in place. */
export async function testDatabase(): Promise<string> {
  const url = (await testCluster()).url(`test_${process.pid}_${++count}`);
  await prepareDatabase(url);
  return url;
}

export const mochaHooks = {
  async afterAll() {
    if (!cluster) return;
    const made = await cluster;
    made.stop('immediate');
    rmSync(made.folder, { recursive: true, force: true });
  },
};
