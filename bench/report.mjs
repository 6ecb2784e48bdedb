// Joins the load generator's request log with the gateway's log by lead id.
//   node report.mjs --requests FILE --gateway-log FILE [--from US --to US]
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { summary } from './lib/stats.mjs';

const lines = (file) =>
  readFileSync(file, 'utf8')
    .split('\n')
    .filter(Boolean)
    .map((l) => JSON.parse(l));

export function report({ requests, gatewayLog, from = -Infinity, to = Infinity }) {
  const arrivals = new Map();
  const keys = new Map();
  let texts = 0,
    duplicates = 0,
    withoutKey = 0,
    keyConflicts = 0;
  for (const g of lines(gatewayLog)) {
    if (g.id === null) continue;
    texts++;
    if (g.key === null) withoutKey++;
    if (arrivals.has(g.id)) {
      duplicates++;
      if (keys.get(g.id) !== g.key) keyConflicts++;
    } else {
      arrivals.set(g.id, g.t);
      keys.set(g.id, g.key);
    }
  }
  const all = lines(requests);
  const inside = all.filter((r) => r.start >= from && r.start < to);
  const accepted = inside.filter((r) => r.status >= 200 && r.status < 300);
  const ms = (us) => us / 1000;
  const delivered = accepted.filter((r) => arrivals.has(r.id));
  const seconds =
    (Number.isFinite(from) && Number.isFinite(to)
      ? to - from
      : Math.max(...inside.map((r) => r.start)) - Math.min(...inside.map((r) => r.start))) / 1e6;
  const arrivedInside = all.filter((r) => arrivals.get(r.id) >= from && arrivals.get(r.id) < to).length;
  return {
    seconds: Number(seconds.toFixed(2)),
    offered: inside.length,
    accepted: accepted.length,
    refused: inside.length - accepted.length,
    delivered: delivered.length,
    undelivered: accepted.length - delivered.length,
    duplicates,
    keyConflicts,
    withoutKey,
    texts,
    acceptedPerSecond: Number((accepted.length / seconds).toFixed(1)),
    deliveredPerSecond: Number((arrivedInside / seconds).toFixed(1)), // arrivals at the gateway inside the window
    acceptMs: summary(accepted.map((r) => ms(r.end - r.start))), // request start -> response
    deliverMs: summary(delivered.map((r) => ms(arrivals.get(r.id) - r.start))), // request start -> text at the gateway
    lagMs: summary(inside.map((r) => ms(r.start - r.sched))), // how late the generator itself was
  };
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const { values: o } = parseArgs({
    options: {
      requests: { type: 'string' },
      'gateway-log': { type: 'string' },
      from: { type: 'string' },
      to: { type: 'string' },
    },
  });
  console.log(
    JSON.stringify(
      report({
        requests: o.requests,
        gatewayLog: o['gateway-log'],
        from: o.from ? Number(o.from) : undefined,
        to: o.to ? Number(o.to) : undefined,
      }),
      null,
      2,
    ),
  );
}
