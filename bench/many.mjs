// The fourth part of npm run bench: a new lead's text while one email to many is going out, beside the same without it.
//   BENCH_MANY readers (50,000), BENCH_RATE leads a second (10), BENCH_SECONDS of each window (20)
import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import pg from 'pg';
import { SMTPServer } from 'smtp-server';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { choosePort } from '../scripts/setup/ports.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { start } from './lib/proc.mjs';
import { seeded, started } from './lib/seeded.mjs';

const here = dirname(fileURLToPath(import.meta.url));
const READERS = Number(process.env.BENCH_MANY ?? 50_000);
const RATE = process.env.BENCH_RATE ?? '10';
const SECONDS = process.env.BENCH_SECONDS ?? '20';
const exec = promisify(execFile);

await build();
const out = join(here, 'out');
mkdirSync(out, { recursive: true });
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
const log = join(out, 'gateway.ndjson');
const gateway = await start('gateway.mjs', { args: ['--log', log] });
let mails = 0;
const mail = new SMTPServer({
  authOptional: true,
  disabledCommands: ['AUTH', 'STARTTLS'],
  onData(stream, _session, callback) {
    stream.on('end', () => {
      mails += 1;
      callback();
    });
    stream.resume();
  },
});
await new Promise((resolve) => mail.listen(0, '127.0.0.1', resolve));
const port = await choosePort();
const env = {
  DATABASE_URL: cluster.url('bench_many'),
  GATEWAY_URL: `http://127.0.0.1:${gateway.port}`,
  PINEBELL_PORT: String(port),
  PINEBELL_URL: `http://127.0.0.1:${port}`,
  PINEBELL_MAIL_PORT: '0',
  PINEBELL_DATA: folder,
  PINEBELL_ALLOW_INSIDE: '1',
  NODE_ENV: 'production',
};
const { address } = await seeded(env);
const db = new pg.Pool({ connectionString: env.DATABASE_URL, max: 2 });
await db.query(
  `insert into connection (id, business_id, kind, name, settings, report_key, report_secret, created_at)
   select gen_random_uuid(), id, 'mail_server', 'Mail', jsonb_build_object('address', $1::text, 'fromName', 'Bench', 'fromAddress', 'bench@example.com'), 'none', 'none', now() from business`,
  [`smtp://127.0.0.1:${mail.server.address().port}`],
);
await db.query(
  `with t as (insert into nurture_list (id, business_id, name, created_at) select gen_random_uuid(), id, 'Many', now() from business returning id, business_id),
   made as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
     select gen_random_uuid(), t.business_id, 'Reader', n::text, 'reader' || n || '@example.net', '', '{}', now(), now() from t, generate_series(1, $1) n returning id)
   insert into list_member (list_id, lead_id, state, how, joined_at, changed_at) select t.id, made.id, 'active', 'bench', now(), now() from t, made`,
  [READERS],
);
const processes = await started(startProcess, ['web', 'worker'], env);
const load = async (seconds) =>
  JSON.parse(
    (
      await exec(
        process.execPath,
        [
          join(here, 'load.mjs'),
          '--url',
          address,
          '--gateway-log',
          log,
          '--out',
          join(out, 'requests.ndjson'),
          '--rate',
          RATE,
          '--seconds',
          seconds,
          '--warmup',
          '2',
        ],
        { maxBuffer: 1 << 24 },
      )
    ).stdout,
  );
try {
  await load('6');
  const quiet = await load(SECONDS);
  const began = Date.now();
  await db.query(
    `insert into mailing (id, business_id, audience, email, state, planned_at, created_at, step_id)
     select gen_random_uuid(), t.business_id, jsonb_build_object('list', t.id), $1, 'planning', now(), now(), 'mailing' from nurture_list t`,
    [
      JSON.stringify({
        settings: {
          subject: 'News for {{ lead.first_name }}',
          message: 'Read https://example.com/news',
          needsConsent: false,
          countLinks: true,
          countOpens: true,
        },
        shared: {
          answers: {},
          where: {},
          source: { name: '' },
          found: {},
          happened: {},
          business: { name: 'Bench', country: 'US', timeZone: 'UTC', holidays: [] },
        },
      }),
    ],
  );
  await new Promise((resolve) => setTimeout(resolve, 3000));
  const [before, at] = [mails, Date.now()];
  const beside = await load(SECONDS);
  const rate = ((mails - before) / ((Date.now() - at) / 1000)).toFixed(0);
  const going = mails < READERS;
  while (mails < READERS && Date.now() - began < 900_000) await new Promise((resolve) => setTimeout(resolve, 500));
  const whole = ((Date.now() - began) / 1000).toFixed(0);
  const row = (name, one) =>
    `| ${name} | ${one.deliverMs.p50} / ${one.deliverMs.p99} ms | ${one.undelivered}, ${one.duplicates} |`;
  console.log(`
| ${RATE} new leads a second | text at the carrier, p50 / p99 | lost, twice |
| --- | --- | --- |
${row('nothing else going on', quiet)}
${row(`one email to ${READERS} going out beside it, ${rate} a second${going ? '' : ' (it ended within the window)'}`, beside)}

All ${mails} emails were handed over within ${whole} s.`);
} finally {
  for (const process of processes) await process.stop();
  await gateway.stop();
  await db.end();
  await new Promise((resolve) => mail.close(resolve));
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}
