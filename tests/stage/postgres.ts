import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { prepareDatabase } from '../../src/db/prepare.ts';
import { closeSharedStage } from './shared-stage.ts';

type Cluster = Awaited<ReturnType<typeof startPostgres>> & { folder: string };
// On globalThis: the test runner may load this file a second time for its hooks.
const held = globalThis as { pineBellCluster?: Promise<Cluster> };
let count = 0;

/** One real PostgreSQL for all tests of a run, made when the first asks for it. */
export function testCluster(): Promise<Cluster> {
  held.pineBellCluster ??= (async () => {
    const folder = mkdtempSync(join(tmpdir(), 'pine-bell-test-'));
    return { ...(await startPostgres(folder)), folder };
  })();
  return held.pineBellCluster;
}

/** A new database with everything in place. */
export async function testDatabase(): Promise<string> {
  const url = (await testCluster()).url(`test_${process.pid}_${++count}`);
  await prepareDatabase(url);
  return url;
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
