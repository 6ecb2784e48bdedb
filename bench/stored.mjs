// The pages with much behind them: people, arrivals, runs, messages and answers of two years (lib/history.mjs).
//   npm run bench -- --stored 1000000, or node bench/stored.mjs --stored 10000,100000,1000000
// More than one size is written to docs/performance/ too: the figures, and how they grow as a picture.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import pg from 'pg';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { choosePort } from '../scripts/setup/ports.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { idOf, storeHistory } from './lib/history.mjs';
import { growth, pictureFolder } from './lib/picture.mjs';
import { printed, seeded, started } from './lib/seeded.mjs';

const { values: o } = parseArgs({
  options: { stored: { type: 'string', default: process.env.BENCH_STORED ?? '100000' } },
});
const TIMES = 12;
/** Drawn; all of them are in the table. */
const DRAWN = ['Today', 'Log', 'Leads', 'Leads, a name looked for', 'A lead', 'Conversations', 'A source', 'Messages'];

const test = (field, how, value) => ({ field, test: how, value, to: '', exact: false });
const count = (condition) => ['/api/leads/count', { condition }];
const views = ({ workflow, source, lead }) => [
  ['Today', '/'],
  ['Workflows', '/workflows'],
  ['Log', `/workflows/${workflow}/log`],
  ['Log, what needs somebody', `/workflows/${workflow}/log?show=needs_you`],
  ['Log, a name looked for', `/workflows/${workflow}/log?search=Edda+Family77`],
  ['Leads', '/leads'],
  ['Leads, a name looked for', '/leads?search=Edda+Family77'],
  ['Leads, part of a number', '/leads?search=770001234'],
  ['Find, a few letters', '/api/find?q=ed'],
  ['Find, a whole name', '/api/find?q=Edda+Family77'],
  ['A lead', `/leads/${lead}`],
  ['Conversations', '/conversations'],
  ['Sources', '/sources'],
  ['A source', `/sources/${source}`],
  ['Lists', '/lists'],
  ['Messages', '/messages'],
  ['Pipeline', '/pipeline'],
  ['What came in, by months', '/settings/arrivals'],
  ['Count: instrument is Piano', ...count(test('answers.instrument', 'is', 'Piano'))],
  ['Count: agreed to texts', ...count(test('', 'agreed', 'text'))],
  ['Count: a lead for 30 days at most', ...count(test('record.since', 'in_last', '30'))],
];

/** Milliseconds of each look at it, in order, the first one left out. */
async function timesOf(look) {
  const times = [];
  for (let i = 0; i <= TIMES; i += 1) {
    const from = performance.now();
    await look();
    if (i > 0) times.push(performance.now() - from);
  }
  return times.sort((a, b) => a - b);
}

/** Makes `leads` and looks at every page; gives what was made and, of each view, the middle and the most of its times. */
async function measure(leads) {
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
  const cluster = await startPostgres(join(folder, 'postgres'));
  const processes = [];
  try {
    const port = await choosePort();
    const url = `http://127.0.0.1:${port}`;
    const env = {
      DATABASE_URL: cluster.url('bench_stored'),
      GATEWAY_URL: 'http://127.0.0.1:9',
      PINEBELL_PORT: String(port),
      PINEBELL_URL: url,
      PINEBELL_MAIL_PORT: '0',
      PINEBELL_DATA: folder,
      NODE_ENV: 'production',
    };
    await seeded(env);
    const made = await storeHistory(env.DATABASE_URL, leads);
    const kept = await printed('keep.ts', env);
    const db = new pg.Client({ connectionString: env.DATABASE_URL });
    await db.connect();
    const { rows } = await db.query(
      `select (select id from workflow) as workflow, (select id from source where key = 'history') as source, ${idOf(1, '($1::int / 2)')} as lead`,
      [leads],
    );
    await db.end();
    processes.push(...(await started(startProcess, ['web'], env)));
    const signed = await fetch(`${url}/sign-in`, {
      method: 'POST',
      headers: { origin: url },
      body: new URLSearchParams({ email: 'bench@example.com', password: 'bench-bench' }),
      redirect: 'manual',
    });
    const headers = {
      ...{ cookie: signed.headers.get('set-cookie').split(';')[0], origin: url },
      'content-type': 'application/json',
    };
    const figures = {};
    for (const [label, path, body] of views(rows[0])) {
      const times = await timesOf(async () => {
        const answer = await fetch(url + path, {
          headers,
          ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
        });
        const text = await answer.text();
        if (!answer.ok) throw new Error(`${path}: ${answer.status} ${text.slice(0, 200)}`);
      });
      figures[label] = { middle: Math.round(times[TIMES / 2]), most: Math.round(times.at(-1)) };
    }
    return { leads, ...made, ...kept, figures };
  } finally {
    for (const one of processes) await one.stop();
    cluster.stop('immediate');
    rmSync(folder, { recursive: true, force: true });
  }
}

const whole = (n) => n.toLocaleString('en');
const mega = (bytes) => `${(bytes / 1e6).toFixed(0)} MB`;

await build();
const results = [];
for (const leads of o.stored.split(',').map(Number)) {
  const result = await measure(leads);
  results.push(result);
  console.log(
    `${whole(leads)} leads, ${whole(result.rows)} rows, ${result.size}, made in ${result.seconds} s. Days counted in ${result.counting.toFixed(1)} s; ${whole(result.arrivals)} arrivals packed in ${result.packing.toFixed(0)} s: bodies of ${mega(result.raw)}, packed ${mega(result.bytes)}.`,
  );
}
const columns = results.map(({ leads }) => `${whole(leads)}: p50 / most of ${TIMES}, ms`);
console.log(`\n| whole page | ${columns.join(' | ')} |\n| --- |${' --- |'.repeat(results.length)}`);
for (const label of Object.keys(results[0].figures))
  console.log(
    `| ${label} | ${results.map(({ figures }) => `${figures[label].middle} / ${figures[label].most}`).join(' | ')} |`,
  );
if (results.length > 1) {
  writeFileSync(join(pictureFolder, 'stored.json'), `${JSON.stringify(results, null, 1)}\n`);
  const picture = growth({
    title: 'A page by what is stored, the slowest of 12 looks',
    x: 'people',
    y: 'ms',
    goal: 300,
    lines: DRAWN.map((name) => ({
      name,
      points: results.map(({ leads, figures }) => [leads, figures[name].most]),
    })),
  });
  writeFileSync(join(pictureFolder, 'stored.svg'), picture);
}
