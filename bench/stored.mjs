// The pages with much behind them: leads, arrivals, runs, messages and answers of two years, BENCH_STORED leads (100,000; more by --stored N).
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { choosePort } from '../scripts/setup/ports.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { seeded, started } from './lib/seeded.mjs';

const asked = process.argv.indexOf('--stored');
const LEADS = Number(asked > 0 ? process.argv[asked + 1] : (process.env.BENCH_STORED ?? 100_000));
const TIMES = 12;

await build();
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
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
const db = new pg.Client({ connectionString: env.DATABASE_URL });
await db.connect();

/** Ids that say which row of which table they are, so that tables can be made side by side. */
const id = (kind, n = 'n') => `('00000000-0000-7000-8${kind}00-' || lpad(${n}::text, 12, '0'))::uuid`;
/** Over two years, the newest last. */
const at = `now() - (1 - n::float / $1) * interval '730 days'`;
const [name, part] = [
  `(array['Ada','Bo','Cleo','Dan','Edda','Finn','Gus','Hana','Ines','Jude'])[n % 10 + 1]`,
  `'Family' || n % 5000`,
];
const of = `from generate_series(1, $1::int) n, (select b.id as business, s.id as source, w.id as workflow, w.live_version_id as version, c.id as carrier
  from business b, source s, workflow w, connection c limit 1) x`;
/** Column by column, of each lead. */
const TABLES = [
  `lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
   select ${id(1)}, business, ${name}, ${part}, 'person' || n || '@example.net', '+4477' || lpad(n::text, 8, '0'),
     jsonb_build_object('instrument', (array['Piano','Violin','Cello','Drums'])[n % 4 + 1], 'note', 'some words of theirs'), ${at}, ${at} ${of}`,
  `lead_identity (business_id, kind, value, lead_id) select business, 'email', 'person' || n || '@example.net', ${id(1)} ${of}`,
  `lead_identity (business_id, kind, value, lead_id) select business, 'phone', '+4477' || lpad(n::text, 8, '0'), ${id(1)} ${of}`,
  `arrival (id, business_id, source_id, external_id, received_at, headers, body, fields, where_from, state, lead_id, repeats)
   select ${id(2)}, business, source, 'entry-' || n, ${at}, '{"content-type":"application/json"}', convert_to('{"firstName":"' || ${name} || '","email":"person' || n || '@example.net"}', 'UTF8'),
     jsonb_build_array(jsonb_build_object('key', 'firstName', 'label', 'First name', 'value', ${name}), jsonb_build_object('key', 'email', 'label', 'Email', 'value', 'person' || n || '@example.net')),
     '{"campaign":"autumn-trial"}', 'read', ${id(1)}, 0 ${of}`,
  `touch (id, business_id, lead_id, arrival_id, at, where_from) select ${id(3)}, business, ${id(1)}, ${id(2)}, ${at}, '{"campaign":"autumn-trial"}' ${of}`,
  `consent (id, business_id, lead_id, channel, state, wording, how, arrival_id, at) select ${id(4)}, business, ${id(1)}, 'text', 'given', 'You may write to me.', 'bench', ${id(2)}, ${at} ${of}`,
  `run (id, business_id, workflow_id, version_id, source_id, lead_id, arrival_id, state, outcome, created_at, came_at, finished_at, first_reply_at)
   select ${id(5)}, business, workflow, version, source, ${id(1)}, ${id(2)}, case when n % 500 = 0 then 'needs_you' else 'done' end, 'Text sent', ${at}, ${at}, ${at} + interval '2 s', ${at} + interval '1 s' ${of}`,
  `step_result (run_id, step_id, business_id, place, state, plan, attempts, started_at, finished_at)
   select ${id(5)}, 'text', business, 'lead', 'done', '{"does":"send","message":{"channel":"text","text":"Hi, thanks for asking!"}}',
     '[{"at":"2026-01-01T00:00:00Z","ms":12,"outcome":"accepted","code":"202","detail":"Accepted"}]', ${at}, ${at} + interval '1 s' ${of}`,
  `delivery (id, business_id, run_id, step_id, item, lead_id, channel, audience, recipient, connection_id, message, state, detail, created_at, accepted_at, reported_at)
   select ${id(6)}, business, ${id(5)}, 'text', 0, ${id(1)}, 'text', 'lead', '+4477' || lpad(n::text, 8, '0'), carrier,
     jsonb_build_object('channel', 'text', 'audience', 'lead', 'to', '+4477' || lpad(n::text, 8, '0'), 'text', 'Hi ' || ${name} || ', thanks for asking! We will call you back.', 'parts', 1, 'purpose', 'service'),
     'delivered', 'Delivered to the phone', ${at}, ${at} + interval '1 s', ${at} + interval '3 s' ${of}`,
  `inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, received_at)
   select ${id(7)}, business, carrier, 'in-' || n, 'text', '+4477' || lpad(n::text, 8, '0'), ${id(1)}, 'Yes please, Saturday is fine', ${at} + interval '1 hour' ${of} where n % 5 = 0`,
  `conversation (id, business_id, lead_id, sender, channel, last_text, last_in, last_at, unread)
   select ${id(8)}, business, ${id(1)}, '+4477' || lpad(n::text, 8, '0'), 'text', 'Yes please, Saturday is fine', true, ${at} + interval '1 hour', case when n % 50 = 0 then 1 else 0 end ${of} where n % 5 = 0`,
];
const began = Date.now();
// Their triggers and foreign keys are held by the application; here they would be asked ten million times.
await db.query('set session_replication_role = replica');
for (const table of TABLES) await db.query(`insert into ${table}`, [LEADS]);
await db.query('set session_replication_role = default');
await db.query('vacuum analyze');
const seconds = ((Date.now() - began) / 1000).toFixed(0);
const { rows: sizes } = await db.query(
  'select pg_size_pretty(pg_database_size(current_database())) as size, (select sum(n_live_tup)::int from pg_stat_user_tables) as n',
);
const { rows: ids } = await db.query(
  `select (select id from workflow) as workflow, (select id from source limit 1) as source, ${id(1, '($1::int / 2)')} as lead`,
  [LEADS],
);
const { workflow, source, lead } = ids[0];
const processes = await started(startProcess, ['web'], env);
const signed = await fetch(`${url}/sign-in`, {
  method: 'POST',
  headers: { origin: url },
  body: new URLSearchParams({ email: 'bench@example.com', password: 'bench-bench' }),
  redirect: 'manual',
});
const cookie = signed.headers.get('set-cookie').split(';')[0];
const ask = async (path, body) => {
  const answer = await fetch(url + path, {
    method: body ? 'POST' : 'GET',
    headers: { cookie, origin: url, 'content-type': 'application/json' },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${path}: ${answer.status} ${text.slice(0, 200)}`);
};
const test = (field, how, value) => ({ field, test: how, value, to: '', exact: false });
const VIEWS = [
  ['Today', '/'],
  ['Workflows', '/workflows'],
  ['Log', `/workflows/${workflow}/log`],
  ['Log, what needs somebody', `/workflows/${workflow}/log?show=needs_you`],
  ['Log, a name looked for', `/workflows/${workflow}/log?search=Edda+Family77`],
  ['Leads', '/leads'],
  ['Leads, a name looked for', '/leads?search=Edda+Family77'],
  ['Leads, part of a number', '/leads?search=770001234'],
  ['A lead', `/leads/${lead}`],
  ['Conversations', '/conversations'],
  ['Sources', '/sources'],
  ['A source', `/sources/${source}`],
  ['Lists', '/lists'],
  ['Messages', '/messages'],
  ['Pipeline', '/pipeline'],
];
const SEGMENTS = [
  ['Count: instrument is Piano', test('answers.instrument', 'is', 'Piano')],
  ['Count: agreed to texts', test('', 'agreed', 'text')],
  ['Count: a lead for 30 days at most', test('record.since', 'in_last', '30')],
];
const measured = async (label, work) => {
  const times = [];
  await work();
  for (let i = 0; i < TIMES; i += 1) {
    const from = performance.now();
    await work();
    times.push(performance.now() - from);
  }
  times.sort((a, b) => a - b);
  console.log(`| ${label} | ${times[TIMES / 2].toFixed(0)} | ${times[Math.ceil(TIMES * 0.95) - 1].toFixed(0)} |`);
};
try {
  console.log(
    `\n${LEADS.toLocaleString('en')} leads, ${Number(sizes[0].n).toLocaleString('en')} rows, ${sizes[0].size}, made in ${seconds} s.\n\n| view, whole | p50 ms | p95 ms |\n| --- | --- | --- |`,
  );
  for (const [label, path] of VIEWS) await measured(label, () => ask(path));
  for (const [label, condition] of SEGMENTS) await measured(label, () => ask('/api/leads/count', { condition }));
} finally {
  for (const one of processes) await one.stop();
  await db.end();
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}
