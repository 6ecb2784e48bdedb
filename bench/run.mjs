// npm run bench: leads through the built application and through a hand-written baseline, in turns, on one machine.
//   node bench/run.mjs [--reps 5] [--seconds 8] [--phases 50,200,sat] [--variants hand,pine-bell,pine-bell@1000000] [--keep]
// A number behind @ is how many people are stored beforehand (lib/history.mjs). Prints medians of the rounds and ratios of medians; keeps every window in
// bench/out/results.ndjson and, with --keep, figures and pictures in docs/performance/.
import { execFile } from 'node:child_process';
import { appendFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs, promisify } from 'node:util';
import pg from 'pg';
import { Pool } from 'undici';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { choosePort } from '../scripts/setup/ports.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { storeHistory } from './lib/history.mjs';
import { compared, pictureFolder } from './lib/picture.mjs';
import { memory, start } from './lib/proc.mjs';
import { seeded, started } from './lib/seeded.mjs';
import { median } from './lib/stats.mjs';

const { values: o } = parseArgs({
  options: {
    reps: { type: 'string', default: '5' },
    seconds: { type: 'string', default: '8' },
    phases: { type: 'string', default: '50,200,sat' },
    variants: { type: 'string', default: 'hand,pine-bell' },
    inflight: { type: 'string', default: '128' },
    keep: { type: 'boolean', default: false },
  },
});
const here = dirname(fileURLToPath(import.meta.url));
const out = join(here, 'out');
mkdirSync(out, { recursive: true });
const exec = promisify(execFile);
const results = [];

await build();
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(folder);
const gatewayPort = await choosePort();
let count = 0;

async function sql(database, text) {
  const client = new pg.Client({ connectionString: cluster.url(database) });
  await client.connect();
  try {
    return await client.query(text);
  } finally {
    await client.end();
  }
}

const VARIANTS = {
  async hand(database, gateway) {
    await sql('postgres', `create database ${database}`);
    await sql(database, readFileSync(join(here, 'baseline/schema.sql'), 'utf8'));
    const env = { DATABASE_URL: cluster.url(database), GATEWAY_URL: `${gateway}/texts` };
    const worker = await start('baseline/hand-worker.mjs', { env });
    const server = await start('baseline/hand-server.mjs', { env });
    return {
      url: `http://127.0.0.1:${server.port}/hook`,
      processes: { web: server, worker },
      open: `select count(*)::int as n from runs where state <> 'done'`,
    };
  },
  async 'pine-bell'(database, gateway, stored) {
    const port = await choosePort();
    const env = {
      DATABASE_URL: cluster.url(database),
      GATEWAY_URL: gateway,
      PINEBELL_PORT: String(port),
      PINEBELL_URL: `http://127.0.0.1:${port}`,
      // Beside a copy that runs here.
      PINEBELL_MAIL_PORT: '0',
      PINEBELL_DATA: folder,
      PINEBELL_ALLOW_INSIDE: '1',
      NODE_ENV: 'production',
    };
    // What is stored is stored once: later rounds go on in the same database.
    if (!addresses.has(database)) {
      addresses.set(database, (await seeded(env)).address);
      if (stored > 0) {
        const made = await storeHistory(env.DATABASE_URL, stored);
        console.error(`${stored} people stored: ${made.rows} rows, ${made.size}, in ${made.seconds} s`);
      }
    }
    const [web, worker] = (await started(startProcess, ['web', 'worker'], env)).map(({ child, stop }) => ({
      pid: child.pid,
      stop,
    }));
    // The address was made for the port of the first round.
    const address = new URL(addresses.get(database));
    address.port = String(port);
    return {
      url: address.href,
      processes: { web, worker },
      open: 'select count(*)::int as n from run where due_at is not null',
    };
  },
};

const addresses = new Map();

async function window(variant, rep) {
  const [kind, stored = '0'] = variant.split('@');
  const log = join(out, 'gateway.ndjson');
  // Always at the same port: a business that is kept knows its carrier by it.
  const gateway = await start('gateway.mjs', { args: ['--log', log, '--port', String(gatewayPort)] });
  const database = stored === '0' ? `bench_${++count}` : `bench_stored_${stored}`;
  const { url, processes, open } = await VARIANTS[kind](database, `http://127.0.0.1:${gateway.port}`, Number(stored));
  const pids = Object.values(processes).map((process) => process.pid);
  try {
    const load = async (args) =>
      JSON.parse(
        (
          await exec(
            process.execPath,
            [
              join(here, 'load.mjs'),
              '--url',
              url,
              '--gateway-log',
              log,
              '--out',
              join(out, 'requests.ndjson'),
              ...Object.entries(processes).flatMap(([name, process]) => ['--watch', `${name}=${process.pid}`]),
              '--watch',
              `postgres=${cluster.pid()}`,
              ...args,
            ],
            { maxBuffer: 1 << 24 },
          )
        ).stdout,
      );
    await load(['--rate', '200', '--seconds', '6', '--warmup', '0']); // lets the JIT settle
    for (const phase of o.phases.split(',')) {
      await sql(database, 'checkpoint');
      const result = {
        variant,
        rep,
        phase,
        ...(await load([
          ...(phase === 'sat' ? ['--inflight', o.inflight] : ['--rate', phase]),
          '--seconds',
          o.seconds,
          '--warmup',
          '2',
        ])),
      };
      results.push(result);
      appendFileSync(join(out, 'results.ndjson'), `${JSON.stringify({ at: new Date().toISOString(), ...result })}\n`);
      console.error(
        `${variant} ${phase}: ${result.deliveredPerSecond}/s, p50 ${result.deliverMs.p50} ms, p99 ${result.deliverMs.p99} ms, lost ${result.undelivered}, twice ${result.duplicates}`,
      );
    }
    const left = await sql(database, open);
    const peak = memory({ all: pids }).all.peak;
    results.push({ variant, rep, phase: 'end', open: left.rows[0].n, peak });
    if (left.rows[0].n > 0) console.error(`${variant}: ${left.rows[0].n} runs are still open`);
  } finally {
    for (const process of Object.values(processes)) await process.stop();
    await gateway.stop();
    // Or its autovacuum would work beside the next window.
    if (stored === '0') await sql('postgres', `drop database ${database} with (force)`);
  }
}

/** What the machine gives at best: a bare Node server answering 202, and single-row commits of PostgreSQL by eight clients. */
async function limits() {
  const bare = await start('baseline/bare-server.mjs');
  const pool = new Pool(`http://127.0.0.1:${bare.port}`, { connections: 50 });
  const body = JSON.stringify({ firstName: 'x', email: 'x@example.test' });
  let requests = 0;
  const until = Date.now() + 3000;
  await Promise.all(
    Array.from({ length: 50 }, async () => {
      while (Date.now() < until) {
        const answer = await pool.request({
          path: '/',
          method: 'POST',
          body,
          headers: { 'content-type': 'application/json' },
        });
        await answer.body.dump();
        requests += 1;
      }
    }),
  );
  await pool.close();
  await bare.stop();
  await sql(
    'postgres',
    'create table t (id bigint generated always as identity primary key, v text, at timestamptz default now())',
  );
  let commits = 0;
  const end = Date.now() + 3000;
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      const client = new pg.Client({ connectionString: cluster.url('postgres') });
      await client.connect();
      while (Date.now() < end) {
        await client.query({ name: 'i', text: "insert into t (v) values ('a lead, more or less')" });
        commits += 1;
      }
      await client.end();
    }),
  );
  return { requests: Math.round(requests / 3), commits: Math.round(commits / 3) };
}

let bareLimits;
try {
  bareLimits = await limits();
  for (let rep = 1; rep <= Number(o.reps); rep++)
    for (const variant of o.variants.split(',')) await window(variant, rep);
} finally {
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}

const variants = o.variants.split(',');
const phases = o.phases.split(',');
const rows = phases.flatMap((phase) =>
  variants.map((variant) => {
    const of = results.filter((r) => r.phase === phase && r.variant === variant);
    const pick = (f) => median(of.map(f));
    const [web, worker, postgres] = ['web', 'worker', 'postgres'].map((name) => pick((r) => r.cpuPer1000[name]));
    return {
      ...{ phase, variant },
      perSecond: pick((r) => r.deliveredPerSecond),
      rounds: of.map((r) => Math.round(r.deliveredPerSecond)),
      p50: pick((r) => r.deliverMs.p50),
      p95: pick((r) => r.deliverMs.p95),
      p99: pick((r) => r.deliverMs.p99),
      lost: Math.max(...of.map((r) => r.undelivered)),
      twice: Math.max(...of.map((r) => r.duplicates)),
      ...{ web, worker, postgres },
      cpu: web + worker + postgres,
    };
  }),
);
const found = (phase, variant) => rows.find((r) => r.phase === phase && r.variant === variant);
/** Of the hand-written baseline, in the same run. */
const ratio = (r, of) => {
  const base = found(r.phase, 'hand');
  return base && r.variant !== 'hand' ? (r[of] / base[of]).toFixed(2) : '';
};
console.log(
  '| load | what | leads/s | of baseline | p50 | p95 | p99 ms | p99 of baseline | lost, twice | CPU s per 1000: web, worker, PostgreSQL | of baseline |',
);
console.log(`|${' --- |'.repeat(11)}`);
for (const r of rows)
  console.log(
    `| ${r.phase === 'sat' ? `saturation, ${o.inflight} in flight` : `${r.phase}/s`} | ${r.variant} | ${r.perSecond.toFixed(0)}${r.phase === 'sat' ? ` (${r.rounds.join(', ')})` : ''} | ${r.phase === 'sat' ? ratio(r, 'perSecond') : ''} | ${r.p50.toFixed(1)} | ${r.p95.toFixed(1)} | ${r.p99.toFixed(1)} | ${ratio(r, 'p99')} | ${r.lost}, ${r.twice} | ${r.web.toFixed(2)}, ${r.worker.toFixed(2)}, ${r.postgres.toFixed(2)} | ${ratio(r, 'cpu')} |`,
  );
const peaks = variants.map(
  (variant) =>
    `${variant} ${Math.max(...results.filter((r) => r.phase === 'end' && r.variant === variant).map((r) => r.peak))}`,
);
console.log(`\nPeak memory of web and worker together, MiB: ${peaks.join(', ')}.`);
console.log(
  `Bare limits in the same run, by a load generator in Node: ${bareLimits.requests} requests/s of a Node server that only answers 202, ${bareLimits.commits} single-row commits/s of PostgreSQL from eight clients.`,
);
if (o.keep) {
  writeFileSync(join(pictureFolder, 'leads.json'), `${JSON.stringify({ rows, peaks, bareLimits }, null, 1)}\n`);
  const words = (variant) =>
    variant === 'hand'
      ? 'hand-written baseline'
      : variant
          .replace('pine-bell', 'Pine Bell')
          .replace(/@(\d+)/, (_, n) => `, ${Number(n).toLocaleString('en')} stored`);
  const bars = (groups, of) =>
    variants.map((variant) => ({
      name: words(variant),
      values: groups.map((phase) => Number(found(phase, variant)[of].toFixed(1))),
    }));
  const rated = phases.filter((phase) => phase !== 'sat');
  for (const [file, title, y, groups, of, names] of [
    [
      'rate.svg',
      'Leads a second from webhook to gateway, at saturation',
      'leads/s',
      ['sat'],
      'perSecond',
      ['saturation'],
    ],
    [
      'latency.svg',
      'Webhook to gateway, 99 of 100 within',
      'ms',
      rated,
      'p99',
      rated.map((phase) => `${phase} a second`),
    ],
    [
      'cpu.svg',
      'Processor time of 1000 leads, all processes',
      's',
      phases,
      'cpu',
      phases.map((phase) => (phase === 'sat' ? 'saturation' : `${phase} a second`)),
    ],
  ])
    writeFileSync(join(pictureFolder, file), compared({ title, y, groups: names, bars: bars(groups, of) }));
}
