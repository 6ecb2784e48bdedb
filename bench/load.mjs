// Load generator for a lead webhook. See README.md.
//   node load.mjs --url URL --rate N --seconds S --gateway-log FILE      open loop: N leads/s by the clock, whatever the server does
//   node load.mjs --url URL --inflight N --seconds S --gateway-log FILE  saturation: at most N leads sent and not yet delivered

import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { closeSync, createWriteStream, existsSync, openSync, readFileSync, readSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { Pool } from 'undici';
import { LEAD_ID, nowUs, sleep } from './lib/clock.mjs';
import { cpuSeconds, machineBusySeconds, memory, stolenSeconds } from './lib/proc.mjs';
import { report } from './report.mjs';

const { values: o } = parseArgs({
  options: {
    url: { type: 'string' },
    rate: { type: 'string' }, // leads per second (open loop)
    inflight: { type: 'string' }, // or: undelivered leads kept in flight (needs --gateway-log)
    seconds: { type: 'string', default: '10' },
    warmup: { type: 'string', default: '2' }, // seconds of the same load before the measured window
    drain: { type: 'string', default: '20' }, // longest wait for the last texts
    arrivals: { type: 'string', default: 'uniform' }, // or poisson
    connections: { type: 'string', default: '64' },
    'gateway-log': { type: 'string' },
    template: { type: 'string' }, // file with a JSON body; {{id}}, {{email}} and {{phone}} are replaced
    header: { type: 'string', multiple: true, default: [] }, // 'name: value'
    watch: { type: 'string', multiple: true, default: [] }, // name=pid[,pid…]: CPU and memory of these process trees
    out: { type: 'string' }, // request log
  },
});
if (!o.url || (!o.rate && !o.inflight) || !o['gateway-log']) {
  console.error('needs --url, --gateway-log, and --rate or --inflight');
  process.exit(2);
}

const rate = Number(o.rate ?? 0),
  inflight = Number(o.inflight ?? 0);
const requestsFile = o.out ?? join(tmpdir(), `bench-requests-${process.pid}.ndjson`);
const template = o.template
  ? readFileSync(o.template, 'utf8')
  : '{"firstName":"{{id}}","lastName":"Bench","email":"{{email}}","phone":"{{phone}}","source":"bench","fields":{"city":"Springfield","budget":"1000-2000","note":"Please call me back in the afternoon"}}';
const headers = { 'content-type': 'application/json', ...Object.fromEntries(o.header.map((h) => h.split(/:\s*/, 2))) };
const groups = {
  load: [process.pid],
  ...Object.fromEntries(
    o.watch.map((w) => {
      const [name, pids] = w.split('=');
      return [name, pids.split(',').map(Number)];
    }),
  ),
};

// Ids are unique per run; e-mails start with a hash so that they land all over an index, as real ones do.
const run = `L${Math.floor(Math.random() * 36 ** 6)
  .toString(36)
  .padStart(6, '0')}N`;
// Of one country for sure: area codes of others, and those that cost, are never texted, and a window of them would deliver nothing.
const AREAS = [212, 213, 312, 415, 512, 602, 617, 702, 713, 808];
const area = AREAS[Math.floor(Math.random() * AREAS.length)];
const phoneBase = Math.floor(Math.random() * 8e6);
const parts = template.split(/(\{\{id\}\}|\{\{email\}\}|\{\{phone\}\})/);
function lead(n) {
  const id = run + String(n).padStart(7, '0');
  const values = {
    '{{id}}': id,
    '{{email}}': `${createHash('md5').update(id).digest('hex').slice(0, 10)}.${id.toLowerCase()}@example.test`,
    '{{phone}}': `+1${area}${2e6 + ((phoneBase + n) % 8e6)}`,
  };
  return { id, body: parts.map((p) => values[p] ?? p).join('') };
}

const url = new URL(o.url);
const path = url.pathname + url.search;
const pool = new Pool(url.origin, {
  connections: Number(o.connections),
  pipelining: 1,
  headersTimeout: 60_000,
  bodyTimeout: 60_000,
});
const log = createWriteStream(requestsFile);
let sent = 0,
  answered = 0,
  failed = 0,
  delivered = 0;

function send(sched) {
  const { id, body } = lead(sent++);
  const start = nowUs();
  let status = 0,
    done = false;
  const finish = () => {
    if (done) return;
    done = true;
    answered++;
    if (status < 200 || status > 299) failed++;
    log.write(`{"id":"${id}","sched":${sched},"start":${start},"end":${nowUs()},"status":${status}}\n`);
  };
  pool.dispatch(
    { path, method: 'POST', headers, body },
    {
      onRequestStart() {},
      onResponseStart(_c, code) {
        status = code;
      },
      onResponseData() {},
      onResponseEnd: finish,
      onResponseError(_c, error) {
        if (process.env.DEBUG) console.error(error);
        status = 0;
        finish();
      },
    },
  );
}

// Follow the gateway log, so as to know which leads of this run have been delivered.
let offset = existsSync(o['gateway-log']) ? statSync(o['gateway-log']).size : 0,
  rest = '',
  fd;
const seen = new Set();
const chunk = Buffer.alloc(1 << 20);
function follow() {
  fd ??= openSync(o['gateway-log'], 'r');
  for (;;) {
    const n = readSync(fd, chunk, 0, chunk.length, offset);
    if (n === 0) break;
    offset += n;
    const text = rest + chunk.toString('latin1', 0, n);
    const end = text.lastIndexOf('\n') + 1;
    rest = text.slice(end);
    for (const line of text.slice(0, end).split('\n')) {
      const id = LEAD_ID.exec(line)?.[0];
      if (id?.startsWith(run) && !seen.has(id)) {
        seen.add(id);
        delivered++;
      }
    }
  }
}

const warmup = Number(o.warmup) * 1e6,
  span = Number(o.seconds) * 1e6;
const begin = nowUs() + 50_000,
  from = begin + warmup,
  to = from + span;
const snapshot = () => ({ groups: cpuSeconds(groups), busy: machineBusySeconds(), stolen: stolenSeconds() });
let cpu0,
  cpu1,
  mem = {},
  backlogAtEnd;
const noteMemory = () => {
  for (const [name, m] of Object.entries(memory(groups)))
    mem[name] = { peak: Math.max(mem[name]?.peak ?? 0, m.peak), pss: Math.max(mem[name]?.pss ?? 0, m.pss) };
};

let next = begin;
while (true) {
  const t = nowUs();
  if (!cpu0 && t >= from) cpu0 = snapshot();
  if (t >= to) {
    cpu1 = snapshot();
    follow();
    backlogAtEnd = answered - failed - delivered;
    break;
  }
  if (inflight) {
    follow();
    if (t >= begin) while (sent - delivered - failed < inflight) send(t);
  } else {
    while (next <= t) {
      send(next);
      next += ((o.arrivals === 'poisson' ? -Math.log(1 - Math.random()) : 1) * 1e6) / rate;
    }
  }
  await sleep(1);
}
noteMemory();
const drainStart = nowUs();
while (nowUs() - drainStart < Number(o.drain) * 1e6) {
  follow();
  if (answered === sent && delivered >= sent - failed) break;
  await sleep(20);
}
const drainSeconds = (nowUs() - drainStart) / 1e6;
noteMemory();
log.end();
await once(log, 'finish');
if (fd) closeSync(fd);
await pool.destroy();

const result = report({ requests: requestsFile, gatewayLog: o['gateway-log'], from, to });
const leads = result.deliveredPerSecond * result.seconds;
const used = Object.fromEntries(Object.keys(groups).map((g) => [g, cpu1.groups[g] - cpu0.groups[g]]));
const ours = Object.values(used).reduce((a, b) => a + b, 0);
console.log(
  JSON.stringify({
    mode: inflight ? `inflight ${inflight}` : `rate ${rate}`,
    ...result,
    backlogAtEnd,
    drainSeconds: Number(drainSeconds.toFixed(2)),
    cpuPer1000: Object.fromEntries(Object.entries(used).map(([g, s]) => [g, Number(((s / leads) * 1000).toFixed(3))])),
    // Cores kept busy by what is not watched (other work on a shared machine; kernel threads too).
    coresOurs: Number((ours / result.seconds).toFixed(2)),
    coresForeign: Number(((cpu1.busy - cpu0.busy - ours) / result.seconds).toFixed(2)),
    coresStolen: Number(((cpu1.stolen - cpu0.stolen) / result.seconds).toFixed(2)),
    memoryMiB: mem,
  }),
);
