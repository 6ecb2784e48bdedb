// The other half of npm run bench: 50 sources polled at once, and imports of 100,000 rows from CSV and XLSX.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import writeWorkbook from 'write-excel-file/node';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { memory, start } from './lib/proc.mjs';

const here = dirname(fileURLToPath(import.meta.url));
const ROWS = Number(process.env.BENCH_ROWS ?? 100_000);
const FORMS = 50;
const ENTRIES = 20;

await build();
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const header = ['Name', 'Email', 'Phone', 'Instrument', 'Town', 'Since', 'Note'];
const rows = Array.from({ length: ROWS }, (_, i) => [
  `Ada ${i} Venn`,
  `ada.${i}@example.org`,
  i % 3 === 0 ? `+4477009${String(i).padStart(5, '0').slice(-5)}` : '',
  ['Piano', 'Violin', 'Cello'][i % 3],
  'Wrenfield',
  '2024-05-17',
  'came to the open day and asked about evening lessons',
]);
const csv = join(folder, 'people.csv');
writeFileSync(csv, [header, ...rows].map((row) => row.join(',')).join('\n'));
const xlsx = join(folder, 'people.xlsx');
const other = rows.map((row) => [row[0], row[1].replace('ada', 'bea'), '', ...row.slice(3)]);
await writeWorkbook(
  [header, ...other].map((row) => row.map((value) => (value === '' ? null : { type: String, value }))),
).toFile(xlsx);

const cluster = await startPostgres(join(folder, 'postgres'));
const platform = await start('platform.mjs');
const env = {
  DATABASE_URL: cluster.url('bench_intake'),
  PINEBELL_DATA: folder,
  PINEBELL_ALLOW_INSIDE: '1',
  PLATFORM_URL: `http://127.0.0.1:${platform.port}`,
  IMPORT_FILES: `${csv},${xlsx}`,
  NODE_ENV: 'production',
};
const { imports } = await new Promise((resolve, reject) => {
  const child = spawn(process.execPath, ['--import', 'tsx', join(here, 'seed-intake.ts')], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let text = '';
  child.stdout.on('data', (chunk) => {
    text += chunk;
  });
  child.on('exit', () => {
    const line = /^ready (.*)$/m.exec(text);
    if (line) resolve(JSON.parse(line[1]));
    else reject(new Error('the bench data could not be made'));
  });
});
const db = new pg.Pool({ connectionString: cluster.url('bench_intake'), max: 2 });
const worker = startProcess('worker', env);
await worker.ready;
const one = async (text, values) => (await db.query(text, values)).rows[0];
const until = async (look) => {
  for (;;) {
    const found = await look();
    if (found) return found;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
};
const peak = () => memory({ worker: [worker.child.pid] }).worker.peak;
const lines = [];
try {
  let began = performance.now();
  await db.query('update pull set next_at = now()');
  await until(
    async () => (await one(`select count(*)::int as n from arrival where state = 'read'`)).n === FORMS * ENTRIES,
  );
  const polled = (performance.now() - began) / 1000;
  const doubles = (await one(`select count(*)::int as n from arrival where repeats > 0`)).n;
  lines.push(
    `| ${FORMS} sources polled at once, ${ENTRIES} entries each, every answer after 50 ms | ${polled.toFixed(2)} s | ${Math.round((FORMS * ENTRIES) / polled)}/s | ${peak()} MiB | ${doubles} twice |`,
  );
  for (const [i, id] of imports.entries()) {
    const name = i === 0 ? 'CSV' : 'XLSX';
    began = performance.now();
    await db.query(`update lead_import set next_at = now() where source_id = $1`, [id]);
    const ready = await until(async () => {
      const row = await one('select state, counts from lead_import where source_id = $1', [id]);
      if (row.state === 'refused') throw new Error('the import was refused');
      return row.state === 'ready' ? row : null;
    });
    const read = (performance.now() - began) / 1000;
    lines.push(
      `| import, ${name}: read and look at ${ROWS} rows | ${read.toFixed(1)} s | ${Math.round(ROWS / read)}/s | ${peak()} MiB | ${ready.counts.refused} refused |`,
    );
    began = performance.now();
    await db.query(
      `update lead_import set state = 'running', total = $2, started_at = now(), next_at = now() where source_id = $1`,
      [id, ready.counts.good],
    );
    await until(async () => (await one('select state from lead_import where source_id = $1', [id])).state === 'done');
    const recorded = (performance.now() - began) / 1000;
    const { n } = await one('select count(*)::int as n from arrival where source_id = $1 and lead_id is not null', [
      id,
    ]);
    lines.push(
      `| import, ${name}: record ${n} leads | ${recorded.toFixed(1)} s | ${Math.round(n / recorded)}/s | ${peak()} MiB | |`,
    );
  }
} finally {
  await worker.stop();
  await platform.stop();
  await db.end();
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}
console.log('\n| what | took | rate | peak memory of the worker | |\n| --- | --- | --- | --- | --- |');
for (const line of lines) console.log(line);
