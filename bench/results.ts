/**
 * The last part of npm run bench: results of BENCH_LEADS leads (1,000,000) over two years with three touches each and 300,000 outcomes, in 12 campaigns of 5 ad
 * sets of 4 ads: how long they take to be reckoned all anew, what the views ask of PostgreSQL, and how soon an outcome that changes is seen. One process.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { startPostgres } from '../scripts/setup/postgres.mjs';
import { askedResults } from '../src/app/results/asked.ts';
import { getMonth } from '../src/app/results/month.ts';
import { getReplies } from '../src/app/results/replies.ts';
import { getWayThrough } from '../src/app/results/way-through.ts';
import { getWhereFrom } from '../src/app/results/where-from.ts';
import { dayOf } from '../src/core/time/day-of.ts';
import { prepareDatabase } from '../src/db/prepare.ts';
import { Bell } from '../src/engine/bell.ts';
import { Reckoner } from '../src/engine/results/reckoner.ts';

const LEADS = Number(process.env.BENCH_LEADS ?? 1_000_000);
const OUTCOMES = Math.round(LEADS * 0.3);
const folder = mkdtempSync(join(tmpdir(), 'pine-bell-bench-'));
const cluster = await startPostgres(join(folder, 'postgres'));
const url = cluster.url('bench_results');
await prepareDatabase(url);
const pool = new pg.Pool({ connectionString: url, max: 6 });
const timed = async (work: () => Promise<unknown>): Promise<number> => {
  const began = performance.now();
  await work();
  return performance.now() - began;
};

const business = '00000000-0000-7000-8000-000000000001';
const kind = '00000000-0000-7000-8000-000000000002';
const id = (which: number, n: string, k = '0') =>
  `('00000000-0000-7000-8${which}00-' || lpad((${n}::bigint * 10 + ${k})::text, 12, '0'))::uuid`;
const at = `now() - (1 - n::float / ${LEADS}) * interval '730 days'`;
await pool.query(
  `insert into business (id, name, country, locale, time_zone, created_at) values ('${business}', 'Bench', 'GB', 'en-GB', 'Europe/London', now())`,
);
await pool.query(
  `insert into outcome_kind (id, business_id, name, created_at) values ('${kind}', '${business}', 'Lesson had', now())`,
);
const seeded = await timed(async () => {
  const client = await pool.connect();
  // Reckoned all at once below: the triggers would only write each of them down first.
  await client.query(`set session_replication_role = replica`);
  await client.query(
    `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
     select ${id(1, 'n')}, '${business}', 'Ada', 'Family' || n % 5000, 'p' || n || '@example.net', '', '{}', ${at}, ${at} from generate_series(1, ${LEADS}) n`,
  );
  await client.query(
    `insert into touch (id, business_id, lead_id, at, where_from)
     select ${id(3, 'n', 'k')}, '${business}', ${id(1, 'n')}, ${at} + k * interval '3 days',
       jsonb_build_object('utm_source', 'site-' || c % 4, 'campaign', 'campaign-' || c % 12, 'ad_set', 'set-' || c % 60, 'ad', 'ad-' || c % 240)
     from generate_series(1, ${LEADS}) n, generate_series(0, 2) k, lateral (select abs(hashint8(n * 10 + k)) as c) x`,
  );
  await client.query(
    `insert into noted_outcome (id, business_id, kind_id, lead_id, key, at, amount, currency, noted_at)
     select ${id(4, 'n')}, '${business}', '${kind}', ${id(1, `(n * ${Math.floor(LEADS / OUTCOMES)})`)}, 'k' || n, now() - (1 - n::float / ${OUTCOMES}) * interval '725 days', 20 + n % 90, 'GBP', now()
     from generate_series(1, ${OUTCOMES}) n`,
  );
  await client.query(
    `insert into ad_cost (id, business_id, day, site, campaign, ad_set, ad, cost, currency, via, read_at)
     select gen_random_uuid(), '${business}', current_date - d, 'site', 'campaign-' || c % 12, 'set-' || c % 60, 'ad-' || c, 5 + c % 7, 'GBP', 'bench', now()
     from generate_series(0, 729) d, generate_series(0, 239) c`,
  );
  await client.query('insert into result_due (lead_id) select id from lead order by id');
  client.release(true);
  await pool.query('analyze');
});

const bell = new Bell(pool);
const reckoner = new Reckoner({ pool, bell, now: () => Date.now() });
const reckoned = await timed(() => reckoner.reckonAll());
await pool.query('vacuum analyze');

const look = { db: pool, actor: { businessId: business, country: 'GB', timeZone: 'Europe/London', locale: 'en-GB' } };
const today = dayOf(Date.now(), 'Europe/London');
const asked = (query: string) => askedResults(new URLSearchParams(query), look.actor as never, Date.now());
const days = (back: number) =>
  `from=${new Date(Date.parse(today) - back * 86_400_000).toISOString().slice(0, 10)}&to=${today}`;
const goal = `goal=own:${kind}`;
const VIEWS: [string, () => Promise<unknown>][] = [
  ['the month by campaign, ad set and ad', () => getWhereFrom(look, asked(`period=last-28&${goal}`))],
  ['two years by campaign, week by week', () => getWhereFrom(look, asked(`${days(729)}&unit=week&${goal}`))],
  [
    'the same by the last touch, as it happened',
    () => getWhereFrom(look, asked(`${days(729)}&unit=week&model=last&basis=happened&${goal}`)),
  ],
  ['the month by workflow', () => getWhereFrom(look, asked(`period=last-28&by=workflow&${goal}`))],
  ['the way through of a month', () => getWayThrough(look as never, asked('period=last-28'), { of: 'all' })],
  ['the first replies of a month', () => getReplies(look, asked('period=last-28'), { of: 'all' })],
  ['the page of a month', () => getMonth(look, today.slice(0, 7), Date.now())],
];
console.log(
  `\n## Results of ${LEADS.toLocaleString('en')} leads, ${(LEADS * 3).toLocaleString('en')} touches and ${OUTCOMES.toLocaleString('en')} outcomes\n`,
);
console.log(
  `Made in ${(seeded / 1000).toFixed(0)} s; all reckoned anew in ${(reckoned / 1000).toFixed(0)} s (${Math.round(LEADS / (reckoned / 1000))} leads/s). Milliseconds:\n`,
);
console.log('| | first | median of 9 | longest |\n| --- | ---: | ---: | ---: |');
for (const [name, work] of VIEWS) {
  const first = await timed(work);
  const times: number[] = [];
  for (let n = 0; n < 9; n++) times.push(await timed(work));
  times.sort((a, b) => a - b);
  console.log(`| ${name} | ${first.toFixed(0)} | ${times[4]!.toFixed(0)} | ${times[8]!.toFixed(0)} |`);
}
const seen: number[] = [];
for (let n = 1; n <= 20; n++)
  seen.push(
    await timed(async () => {
      await pool.query('update noted_outcome set amount = amount + 1 where kind_id = $1 and key = $2', [
        kind,
        `k${n * 1000}`,
      ]);
      await reckoner.reckonAll();
      await getWhereFrom(look, asked(`period=last-28&${goal}`));
    }),
  );
seen.sort((a, b) => a - b);
console.log(
  `| an outcome changed, reckoned and shown (the loop looks at once, or within a second) | | ${seen[10]!.toFixed(0)} | ${seen[19]!.toFixed(0)} |`,
);
bell.stop();
await pool.end();
await cluster.stop();
rmSync(folder, { recursive: true, force: true });
process.exit(0);
