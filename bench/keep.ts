/** Does once what is done every hour, on the database of DATABASE_URL: counts the days that are over, packs what came in long ago. Prints what it came to. */
import { COUNT_DAYS } from '../src/db/day-counts.sql.ts';
import { openPool } from '../src/db/pool.ts';
import { keepArchive } from '../src/engine/archive/pack-months.ts';

const pool = openPool(process.env.DATABASE_URL!, 2);
const size = async () => (await pool.query<{ n: string }>(`select pg_total_relation_size('arrival') as n`)).rows[0]!.n;
const timed = async (work: () => Promise<unknown>) => {
  const from = performance.now();
  await work();
  return (performance.now() - from) / 1000;
};
const counting = await timed(() => pool.query(COUNT_DAYS));
const before = await size();
const packing = await timed(() => keepArchive(pool, Date.now()));
const { rows } = await pool.query<{ arrivals: number; raw: number; bytes: number; packs: number }>(
  `select count(*)::int as packs, coalesce(sum(arrivals), 0)::int as arrivals, coalesce(sum(raw_bytes), 0)::float as raw, coalesce(sum(octet_length(bytes)), 0)::float as bytes from arrival_pack`,
);
await pool.query('vacuum analyze arrival');
await pool.end();
console.log(`ready ${JSON.stringify({ counting, packing, before: Number(before), ...rows[0] })}`);
