// The fifth part of npm run bench: a list of many people on the screen, and how long its segments take to count.
//   BENCH_SUBSCRIBERS (100,000)
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { choosePort } from '../scripts/setup/ports.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { seeded, started } from './lib/seeded.mjs';
import { median } from './lib/stats.mjs';

const PEOPLE = Number(process.env.BENCH_SUBSCRIBERS ?? 100_000);
const TIMES = 9;

await build();
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
const port = await choosePort();
const url = `http://127.0.0.1:${port}`;
const env = {
  DATABASE_URL: cluster.url('bench_lists'),
  GATEWAY_URL: 'http://127.0.0.1:9',
  PINEBELL_PORT: String(port),
  PINEBELL_URL: url,
  PINEBELL_MAIL_PORT: '0',
  PINEBELL_DATA: folder,
  NODE_ENV: 'production',
};
await seeded(env);
const db = new pg.Pool({ connectionString: env.DATABASE_URL, max: 2 });
const { rows } = await db.query(
  `with b as (select id from business), t as (insert into nurture_list (id, business_id, name, created_at) select gen_random_uuid(), id, 'Many', now() from b returning id, business_id),
   g as (insert into tag (id, business_id, name, created_at) select gen_random_uuid(), id, 'Every third', now() from b returning id),
   made as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
     select gen_random_uuid(), t.business_id, 'Reader', n::text, 'reader' || n || '@example.net', '+4477009' || lpad((n % 100000)::text, 5, '0'),
       jsonb_build_object('instrument', (array['Piano', 'Violin', 'Cello', 'Drums', ' piano'])[n % 5 + 1], 'age', (n % 80)::text, 'note', repeat('some words ', 8)),
       now() - n % 1000 * interval '1 day', now() - n % 1000 * interval '1 day' from t, generate_series(1, $1) n returning id, business_id, created_at),
   members as (insert into list_member (list_id, lead_id, state, how, joined_at, changed_at) select t.id, made.id, 'active', 'bench', made.created_at, now() from t, made),
   tagged as (insert into lead_tag (lead_id, tag_id, at) select made.id, g.id, now() from made, g where ('x' || right(made.id::text, 4))::bit(16)::int % 3 = 0),
   agreed as (insert into consent (id, business_id, lead_id, channel, state, wording, how, at) select gen_random_uuid(), business_id, id, 'email', 'given', '', 'bench', now() from made)
   select t.id as list, g.id as tag from t, g`,
  [PEOPLE],
);
await db.query('vacuum analyze');
const { list, tag } = rows[0];
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
  return text;
};
const measured = async (name, work) => {
  let said = '';
  await work();
  const times = [];
  for (let i = 0; i < TIMES; i += 1) {
    const at = performance.now();
    said = await work();
    times.push(performance.now() - at);
  }
  console.log(`| ${name} | ${median(times).toFixed(0)} / ${Math.max(...times).toFixed(0)} ms | ${said} |`);
};
const test = (field, name, value = '') => ({ field, test: name, value, to: '', exact: false });
const count = (condition) => async () =>
  JSON.parse(await ask('/api/leads/count', { list: { id: list, state: 'active' }, condition })).n.toLocaleString('en');
try {
  console.log(
    `\n| with ${PEOPLE.toLocaleString('en')} people | middle / most of ${TIMES} | found |\n| --- | --- | --- |`,
  );
  await measured('the list, opened (whole page, HTML)', async () => {
    await ask(`/lists/${list}`);
    return '';
  });
  await measured('the leads, opened (whole page, HTML)', async () => {
    await ask('/leads');
    return '';
  });
  await measured('instrument is Piano', count(test('answers.instrument', 'is', 'Piano')));
  await measured('has a tag', count(test('', 'has_tag', tag)));
  await measured(
    'agreed to emails, a lead for 30 days at most',
    count({ all: [test('', 'agreed', 'email'), test('record.since', 'in_last', '30')] }),
  );
  await measured(
    'note contains “words”, or Cello',
    count({ any: [test('answers.note', 'contains', 'words x'), test('answers.instrument', 'is', 'Cello')] }),
  );
  await measured('age is greater than 40 (asked of the core)', count(test('answers.age', 'greater', '40')));
  await measured(
    'a valid mobile and Piano (asked of the core)',
    count({ all: [test('lead.phone', 'valid_mobile'), test('answers.instrument', 'is', 'Piano')] }),
  );
} finally {
  for (const process of processes) await process.stop();
  await db.end();
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}
