import type pg from 'pg';
import { keptFrom, monthKey, monthStart, packsBefore } from '../../core/archive/months.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import { log } from '../../log.ts';
import { KEPT_NO_MORE, makePart, packTogether } from './pack.ts';

/** Arrivals of one pack at most, and bytes as they were sent: what is unpacked again to look at one of them. */
const PACK_ARRIVALS = 500;
const PACK_BYTES = 2_000_000;
/** Rows emptied by one statement. */
const DROP_AT_ONCE = 5000;

interface Keeping {
  id: string;
  keeps_sent_months: number | null;
  packed_to: Date | null;
  dropped_to: Date | null;
}

/**
 * Packs what came in more than three months ago, and lets go of what is past the time a business keeps it. Safe to break off and to repeat; two
 * processes at it do each pack once. The first time it may take minutes: it leaves off where it is once `stopping` says so.
 */
export async function keepArchive(pool: pg.Pool, now: number, stopping: () => boolean = () => false): Promise<void> {
  const { rows } = await pool.query<Keeping>(
    `select b.id, b.keeps_sent_months, p.packed_to, p.dropped_to from business b left join archive_progress p on p.business_id = b.id order by b.id`,
  );
  await dropParts(pool, rows, now);
  for (const business of rows) {
    await drop(pool, business, now);
    while (!stopping() && (await packSome(pool, business.id, packsBefore(now))));
  }
}

/** Whole parts that nobody keeps any more. */
async function dropParts(pool: pg.Pool, all: readonly Keeping[], now: number): Promise<void> {
  const limits = all.map((business) => keptFrom(now, business.keeps_sent_months));
  const known = limits.filter((limit) => limit !== null);
  if (known.length === 0 || known.length < limits.length) return;
  const oldest = new Date(Math.min(...known.map(Number)));
  const { rows } = await pool.query<{ part: string }>(
    `select c.relname as part from pg_inherits i join pg_class c on c.oid = i.inhrelid
     where i.inhparent = 'arrival_pack'::regclass and c.relname ~ '^arrival_pack_\\d{4}_\\d{2}$' order by 1`,
  );
  for (const { part } of rows) {
    const month = new Date(`${part.slice(-7).replace('_', '-')}-01T00:00:00Z`);
    if (month >= oldest) continue;
    await pool.query(`drop table ${part}`);
    log.info({ scope: 'archive', part }, 'a month nobody keeps any more is gone');
  }
}

/** What one business keeps no more: its packs, and what was never packed because it became no lead. */
async function drop(pool: pg.Pool, business: Keeping, now: number): Promise<void> {
  const limit = keptFrom(now, business.keeps_sent_months);
  if (!limit || (business.dropped_to && business.dropped_to >= limit)) return;
  await pool.query('delete from arrival_pack where business_id = $1 and month < $2', [business.id, monthKey(limit)]);
  for (let rows = DROP_AT_ONCE; rows === DROP_AT_ONCE; )
    rows =
      (
        await pool.query(
          `update arrival set kept_in = $1, headers = '{}', body = '' where id in (select id from arrival
             where business_id = $2 and received_at >= $3 and received_at < $4 and kept_in is null order by received_at limit ${DROP_AT_ONCE})`,
          [KEPT_NO_MORE, business.id, business.dropped_to ?? new Date(0), limit],
        )
      ).rowCount ?? 0;
  await pool.query(
    `insert into archive_progress (business_id, packed_to, dropped_to) values ($1, $2, $2)
     on conflict (business_id) do update set dropped_to = excluded.dropped_to, packed_to = greatest(archive_progress.packed_to, excluded.packed_to)`,
    [business.id, limit],
  );
}

/** One pack of a business's oldest arrivals that stand as they came; false when there are none before `until`. */
function packSome(pool: pg.Pool, businessId: string, until: Date): Promise<boolean> {
  return inTransaction(pool, async (client) => {
    await client.query(
      `insert into archive_progress (business_id, packed_to, dropped_to) values ($1, 'epoch', 'epoch') on conflict do nothing`,
      [businessId],
    );
    // One at a time for each business; whoever comes second goes on where the first ended.
    const { rows: progress } = await client.query<{ packed_to: Date }>(
      'select packed_to from archive_progress where business_id = $1 for update',
      [businessId],
    );
    const from = progress[0]!.packed_to;
    // What became no lead stays as it came: somebody may still look into it, and who is erased is looked for in it.
    const { rows: next } = await client.query<{ id: string; received_at: Date; size: number }>(
      `select id, received_at, octet_length(body) as size from arrival where business_id = $1 and received_at >= $2 and received_at < $3
         and kept_in is null and lead_id is not null order by received_at, id limit ${PACK_ARRIVALS} for update`,
      [businessId, from, until],
    );
    if (next.length === 0) {
      if (from < until)
        await client.query('update archive_progress set packed_to = $2 where business_id = $1', [businessId, until]);
      return false;
    }
    const month = monthKey(next[0]!.received_at);
    const upTo = monthStart(next[0]!.received_at, -1);
    const ids: string[] = [];
    let bytes = 0;
    for (const { id, received_at, size } of next) {
      if (received_at >= upTo || (ids.length > 0 && bytes + size > PACK_BYTES)) break;
      ids.push(id);
      bytes += size;
    }
    const { rows } = await client.query<{
      id: string;
      received_at: Date;
      headers: Record<string, string>;
      body: Buffer;
    }>('select id, received_at, headers, body from arrival where id = any($1) order by received_at, id', [ids]);
    await makePart(client, month);
    await packTogether(
      client,
      businessId,
      month,
      rows.map((row) => ({ ...row, receivedAt: row.received_at })),
    );
    await client.query('update archive_progress set packed_to = $2 where business_id = $1', [
      businessId,
      next[ids.length - 1]!.received_at,
    ]);
    return true;
  });
}
