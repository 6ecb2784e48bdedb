// The sixth part of npm run bench: people write back, so many a second, and the workflow that waits for a reply answers.
//   BENCH_INBOUND messages a second (50), BENCH_SECONDS (20)
import { createHmac } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { Pool } from 'undici';
import { build } from '../scripts/build.mjs';
import { startProcess } from '../scripts/setup/child.mjs';
import { choosePort } from '../scripts/setup/ports.mjs';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { nowUs } from './lib/clock.mjs';
import { start } from './lib/proc.mjs';
import { seeded, started } from './lib/seeded.mjs';
import { summary } from './lib/stats.mjs';

const RATE = Number(process.env.BENCH_INBOUND ?? 50);
const SECONDS = Number(process.env.BENCH_SECONDS ?? 20);
const PEOPLE = RATE * SECONDS;

await build();
const out = join(dirname(fileURLToPath(import.meta.url)), 'out');
mkdirSync(out, { recursive: true });
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
const log = join(out, 'inbound.ndjson');
const gateway = await start('gateway.mjs', { args: ['--log', log] });
const port = await choosePort();
const url = `http://127.0.0.1:${port}`;
const env = {
  DATABASE_URL: cluster.url('bench_inbound'),
  GATEWAY_URL: `http://127.0.0.1:${gateway.port}`,
  PINEBELL_PORT: String(port),
  PINEBELL_URL: url,
  PINEBELL_MAIL_PORT: '0',
  PINEBELL_DATA: folder,
  PINEBELL_ALLOW_INSIDE: '1',
  BENCH_SHEET: 'reply',
  NODE_ENV: 'production',
};
const { address, reportKey, reportSecret } = await seeded(env);
const db = new pg.Pool({ connectionString: env.DATABASE_URL, max: 2 });
const processes = await started(startProcess, ['web', 'worker'], env);
const http = new Pool(url, { connections: 32 });
const post = async (path, body, headers = {}) => {
  const answer = await http.request({
    path,
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body,
  });
  await answer.body.text();
  return answer.statusCode;
};
/** Signed as docs/gateways.md says (Standard Webhooks). */
const report = (id, value) => {
  const body = JSON.stringify(value);
  const at = Math.floor(Date.now() / 1000);
  const key = Buffer.from(reportSecret.replace(/^whsec_/, ''), 'base64');
  const signature = createHmac('sha256', key).update(`${id}.${at}.${body}`).digest('base64');
  return post(`/reports/${reportKey}`, body, {
    'webhook-id': id,
    'webhook-timestamp': String(at),
    'webhook-signature': `v1,${signature}`,
  });
};
const number = (n) => `+44770090${String(n).padStart(4, '0')}`;
/** As the stub gateway finds it again in a text. */
const leadId = (n) => `L000000N${String(n).padStart(7, '0')}`;
try {
  for (let n = 0; n < PEOPLE; n += 20)
    await Promise.all(
      Array.from({ length: Math.min(20, PEOPLE - n) }, (_, i) =>
        post(
          new URL(address).pathname,
          JSON.stringify({
            firstName: leadId(n + i),
            lastName: 'x',
            email: `r${n + i}@example.net`,
            phone: number(n + i),
          }),
        ),
      ),
    );
  for (;;) {
    const { rows } = await db.query(
      `select count(*)::int as n from run where waits_for ->> 'event' = 'reply' and lease_by is null and due_at is not null`,
    );
    if (rows[0].n >= PEOPLE) break;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  const sent = new Map();
  const answered = [];
  const began = Date.now();
  let bad = 0;
  for (let n = 0; n < PEOPLE; n += 1) {
    const due = began + (n * 1000) / RATE;
    if (due > Date.now()) await new Promise((resolve) => setTimeout(resolve, due - Date.now()));
    const at = nowUs();
    sent.set(leadId(n), at);
    const data = { id: `in-${n}`, from: number(n), to: 'Bench', text: 'Yes please', at: new Date().toISOString() };
    answered.push(
      report(`evt-${n}`, { type: 'text.received', data }).then((status) => {
        if (status !== 200) bad += 1;
        return (nowUs() - at) / 1000;
      }),
    );
  }
  const accepted = await Promise.all(answered);
  const replies = () =>
    readFileSync(log, 'utf8')
      .split('\n')
      .filter(Boolean)
      .map((line) => JSON.parse(line))
      .filter((one) => sent.has(one.id));
  for (let i = 0; i < 240 && replies().length < PEOPLE; i += 1)
    await new Promise((resolve) => setTimeout(resolve, 250));
  const all = replies();
  const waits = all.map((one) => (one.t - sent.get(one.id)) / 1000);
  const [took, reply] = [summary(accepted, 0), summary(waits, 0)];
  console.log(`
| ${RATE} messages a second come in, ${PEOPLE} in all | p50 / p99 / most |
| --- | --- |
| taken (2xx to the carrier) | ${took.p50} / ${took.p99} / ${took.max} ms |
| the workflow's answer at the carrier, after they wrote | ${reply.p50} / ${reply.p99} / ${reply.max} ms |

${bad} refused, ${PEOPLE - new Set(all.map((one) => one.id)).size} not answered, ${all.length - new Set(all.map((one) => one.id)).size} answered twice.`);
} finally {
  await http.close();
  for (const process of processes) await process.stop();
  await gateway.stop();
  await db.end();
  cluster.stop('immediate');
  rmSync(folder, { recursive: true, force: true });
}
