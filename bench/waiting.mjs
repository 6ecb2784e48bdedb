// The third part of npm run bench: 10,000 runs that wait. What they cost while they wait, and how late they wake.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';

const here = dirname(fileURLToPath(import.meta.url));
const RUNS = Number(process.env.BENCH_WAITING ?? 10_000);
const IDLE_S = 10;
/** Over how many seconds they wake. */
const WAKE_S = Number(process.env.BENCH_WAKE_S ?? 20);

await build();
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
const env = {
  DATABASE_URL: cluster.url('bench_waiting'),
  PINEBELL_DATA: folder,
  NODE_ENV: 'production',
  BENCH_WAITING: String(RUNS),
};
await new Promise((resolve, reject) => {
  const child = spawn(process.execPath, ['--import', 'tsx', join(here, 'seed-waiting.ts')], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  child.on('exit', (code) => (code === 0 ? resolve() : reject(new Error('the bench data could not be made'))));
});
const db = new pg.Pool({ connectionString: env.DATABASE_URL, max: 2 });
const worker = startProcess('worker', env);
await worker.ready;
/** User and system time of a process so far, in seconds (proc(5), USER_HZ 100). */
const cpu = (pid) => {
  const stat = readFileSync(`/proc/${pid}/stat`, 'latin1');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
};
const one = async (text, values) => (await db.query(text, values)).rows[0];
try {
  await new Promise((resolve) => setTimeout(resolve, 3000));
  const before = cpu(worker.child.pid);
  await new Promise((resolve) => setTimeout(resolve, IDLE_S * 1000));
  const idle = ((cpu(worker.child.pid) - before) / IDLE_S) * 100;
  // Their times come, spread evenly over a minute.
  await db.query(
    `with n as (select id, row_number() over (order by id) as n from run)
     update run set due_at = now() + interval '2 s' + n.n * $1::float / $2 * interval '1 s' from n where n.id = run.id`,
    [WAKE_S, RUNS],
  );
  await db.query('create table due_before as select id, due_at from run');
  for (;;) {
    const { n } = await one(`select count(*)::int as n from run where due_at is not null`);
    if (n === 0) break;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  const late = await one(
    `select percentile_cont(0.5) within group (order by ms) as p50, percentile_cont(0.99) within group (order by ms) as p99, max(ms) as most, count(*)::int as n
     from (select extract(epoch from s.started_at - d.due_at) * 1000 as ms from step_result s join due_before d on d.id = s.run_id where s.step_id = 'n2') x`,
  );
  const twice = await one(
    'select count(*)::int as n from (select run_id from lead_note group by 1 having count(*) > 1) x',
  );
  console.log(`
| ${RUNS} runs that wait | figure |
| --- | --- |
| CPU of the worker while they all wait | ${idle.toFixed(1)} % of one core |
| woken at ${Math.round(RUNS / WAKE_S)}/s: after their time, p50 / p99 / most | ${Math.round(late.p50)} / ${Math.round(late.p99)} / ${Math.round(late.most)} ms |
| gone through, done twice | ${late.n}, ${twice.n} |`);
} finally {
  await worker.stop();
  await db.end();
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}
