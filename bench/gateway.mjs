// Stub text gateway: answers any POST after a simulated latency and logs when each text arrived.
//   node gateway.mjs --log FILE [--port 0] [--latency 5] [--fail 0]
// Log: one JSON line per text, {"t": monotonic µs, "id": lead id found in the body, "key": idempotency key}.
import { appendFileSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import { parseArgs } from 'node:util';
import { LEAD_ID, nowUs } from './lib/clock.mjs';

const { values: o } = parseArgs({
  options: {
    log: { type: 'string' },
    port: { type: 'string', default: '0' },
    latency: { type: 'string', default: '5' }, // ms
    fail: { type: 'string', default: '0' }, // share of texts answered 503 (not counted as arrived)
  },
});
const latency = Number(o.latency),
  fail = Number(o.fail);
writeFileSync(o.log, '');

let buffer = '';
const flush = () => {
  if (buffer) {
    const b = buffer;
    buffer = '';
    appendFileSync(o.log, b);
  }
};
setInterval(flush, 2);

const server = http.createServer((req, res) => {
  const t = nowUs();
  let body = '';
  req.setEncoding('utf8');
  req.on('data', (c) => {
    body += c;
  });
  req.on('end', () => {
    const bad = fail > 0 && Math.random() < fail;
    const id = LEAD_ID.exec(body)?.[0] ?? null;
    if (!bad)
      buffer += `{"t":${t},"id":${JSON.stringify(id)},"key":${JSON.stringify(req.headers['idempotency-key'] ?? null)}}\n`;
    setTimeout(() => {
      res.writeHead(bad ? 503 : 200, { 'content-type': 'application/json' });
      res.end(bad ? '{"ok":false}' : `{"ok":true,"id":"${t}"}`);
    }, latency);
  });
});
server.keepAliveTimeout = 60_000;
server.listen(Number(o.port), '127.0.0.1', () =>
  console.log(`ready ${JSON.stringify({ port: server.address().port })}`),
);
process.on('SIGTERM', () => {
  flush();
  process.exit(0);
});
