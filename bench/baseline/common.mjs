import http from 'node:http';
import pg from 'pg';
import { Pool } from 'undici';
import { z } from 'zod';

pg.types.setTypeParser(20, Number); // bigint ids
export const CONCURRENCY = Number(process.env.CONCURRENCY ?? 24);
export const connect = () =>
  new pg.Pool({ connectionString: process.env.DATABASE_URL, max: Number(process.env.POOL ?? 10) });
export const listener = async (channel, onNotify) => {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await client.connect();
  client.on('notification', onNotify);
  await client.query(`listen ${channel}`);
  return client;
};

const Lead = z.object({
  firstName: z.string().min(1).max(200),
  lastName: z.string().max(200).optional(),
  email: z.email(),
  phone: z.string().regex(/^\+[1-9]\d{7,14}$/),
  source: z.string().max(100).optional(),
  fields: z.record(z.string(), z.string()).default({}),
});

/** POST /hook: validate, hand to `accept`, 202. */
export function serve(accept) {
  const reply = (res, status, value) => {
    const s = JSON.stringify(value);
    res.writeHead(status, { 'content-type': 'application/json', 'content-length': Buffer.byteLength(s) });
    res.end(s);
  };
  const server = http.createServer((req, res) => {
    if (req.method !== 'POST' || req.url !== '/hook') return reply(res, 404, { error: 'not found' });
    let body = '';
    req.setEncoding('utf8');
    req.on('data', (c) => {
      body += c;
      if (body.length > 1e6) req.destroy();
    });
    req.on('end', async () => {
      let json;
      try {
        json = JSON.parse(body);
      } catch {
        return reply(res, 400, { error: 'not JSON' });
      }
      const lead = Lead.safeParse(json);
      if (!lead.success) return reply(res, 422, { error: lead.error.issues });
      try {
        reply(res, 202, { run: await accept(lead.data) });
      } catch (e) {
        console.error(e);
        reply(res, 500, { error: 'failed' });
      }
    });
  });
  server.keepAliveTimeout = 60_000;
  server.listen(0, '127.0.0.1', () => console.log(`ready ${JSON.stringify({ port: server.address().port })}`));
}

const gateway = new URL(process.env.GATEWAY_URL ?? 'http://127.0.0.1:1/');
const gatewayPool = new Pool(gateway.origin, { connections: 64 });
export async function sendText({ key, phone, firstName }) {
  const { statusCode, body } = await gatewayPool.request({
    path: gateway.pathname,
    method: 'POST',
    headers: { 'content-type': 'application/json', 'idempotency-key': key },
    body: JSON.stringify({
      to: phone,
      text: `Hi ${firstName}, thanks for asking! We will call you back within the hour.`,
    }),
  });
  await body.json();
  if (statusCode >= 300) throw new Error(`gateway said ${statusCode}`);
}

export const TAKE = {
  name: 'take',
  text: `with taken as (
    update jobs set due_at = now() + interval '60 s', attempts = attempts + 1
    where id in (select id from jobs where due_at <= now() order by due_at limit $1 for update skip locked)
    returning id, run_id)
  select t.id, t.run_id, l.phone, l.first_name from taken t join runs r on r.id = t.run_id join leads l on l.id = r.lead_id`,
};

/** Keeps up to CONCURRENCY jobs going; the function returned says that there may be new ones. */
export function workLoop(take, handle) {
  let busy = 0,
    taking = false,
    more = false;
  async function wake() {
    more = true;
    if (taking) return;
    taking = true;
    try {
      while (more && busy < CONCURRENCY) {
        more = false;
        const free = CONCURRENCY - busy;
        const jobs = await take(free);
        if (jobs.length === free) more = true;
        for (const job of jobs) {
          busy++;
          handle(job)
            .catch((e) => console.error(e.message))
            .finally(() => {
              busy--;
              if (more) wake();
            });
        }
      }
    } catch (e) {
      console.error(e);
    } finally {
      taking = false;
    }
  }
  setInterval(wake, 1000); // for leases that ended, and notifications missed
  wake();
  return wake;
}
