import { promisify } from 'node:util';
import { gunzip, gzip } from 'node:zlib';
import { v7 as uuidv7 } from 'uuid';
import { monthKey } from '../../core/archive/months.ts';
import { readSentLine, type Sent, sentLine } from '../../core/archive/sent-line.ts';
import type { Db } from '../../db/db.ts';

const [zip, unzip] = [promisify(gzip), promisify(gunzip)];

/** Of an arrival whose words are kept no more: `arrival.kept_in`. */
export const KEPT_NO_MORE = '00000000-0000-0000-0000-000000000000';
/** What is read of one pack at most: far above what is ever packed (pack-months.ts). */
const MOST_BYTES = 256 * 1024 * 1024;

/** Where the part of a month stands; the name is made of the month alone. */
const partOf = (month: string): string => `arrival_pack_${month.slice(0, 7).replace('-', '_')}`;

/** Sees to it that a month has a part of its own. Whoever comes second finds it. */
export async function makePart(db: Db, month: string): Promise<void> {
  const { rows } = await db.query<{ there: boolean }>('select to_regclass($1) is not null as there', [partOf(month)]);
  if (rows[0]!.there) return;
  const next = new Date(`${month}T00:00:00Z`);
  next.setUTCMonth(next.getUTCMonth() + 1);
  await db.query(
    `create table if not exists ${partOf(month)} partition of arrival_pack for values from ('${month}') to ('${monthKey(next)}')`,
  );
}

/** Packs arrivals of one business and one month, and notes where they are. Inside a transaction that holds their rows. */
export async function packTogether(db: Db, businessId: string, month: string, sent: readonly Sent[]): Promise<void> {
  const id = uuidv7();
  await db.query(
    'insert into arrival_pack (month, id, business_id, arrivals, raw_bytes, bytes) values ($1, $2, $3, $4, $5, $6)',
    [month, id, businessId, sent.length, rawBytes(sent), await packed(sent)],
  );
  await db.query(`update arrival set kept_in = $1, headers = '{}', body = '' where id = any($2)`, [
    id,
    sent.map((one) => one.id),
  ]);
}

/** Takes arrivals that have been deleted out of their packs. Inside the transaction that deleted them. */
export async function unpackErased(
  db: Db,
  erased: readonly { id: string; received_at: Date; kept_in: string | null }[],
): Promise<void> {
  const packs = new Map(erased.flatMap((one) => (one.kept_in ? [[one.kept_in, monthKey(one.received_at)]] : [])));
  const gone = new Set(erased.map((one) => one.id));
  // In one order, so that two who erase do not wait for each other.
  for (const [id, month] of [...packs].sort()) {
    const { rows } = await db.query<{ bytes: Buffer }>(
      'select bytes from arrival_pack where month = $1 and id = $2 for update',
      [month, id],
    );
    if (!rows[0]) continue;
    const left = (await unpacked(rows[0].bytes)).filter((one) => !gone.has(one.id));
    if (left.length === 0) await db.query('delete from arrival_pack where month = $1 and id = $2', [month, id]);
    else
      await db.query('update arrival_pack set bytes = $3, arrivals = $4, raw_bytes = $5 where month = $1 and id = $2', [
        month,
        id,
        await packed(left),
        left.length,
        rawBytes(left),
      ]);
  }
}

/** An arrival's row, as far as its words are asked for. */
export interface ArrivalRow {
  id: string;
  received_at: Date;
  kept_in: string | null;
  headers: Record<string, string>;
  body: Buffer;
}

/** What arrivals were sent as, by their ids, wherever it stands; those that are kept no more are missing. */
export async function sentAs(
  db: Db,
  businessId: string,
  rows: readonly ArrivalRow[],
): Promise<Map<string, Pick<ArrivalRow, 'headers' | 'body'>>> {
  const found = new Map<string, Pick<ArrivalRow, 'headers' | 'body'>>();
  const packs = new Map<string, string>();
  for (const row of rows)
    if (row.kept_in === null) found.set(row.id, row);
    else packs.set(row.kept_in, monthKey(row.received_at));
  const wanted = new Set(rows.map((row) => row.id));
  for (const [id, month] of packs) {
    const { rows: there } = await db.query<{ bytes: Buffer }>(
      'select bytes from arrival_pack where month = $1 and id = $2 and business_id = $3',
      [month, id, businessId],
    );
    for (const sent of there[0] ? await unpacked(there[0].bytes) : [])
      if (wanted.has(sent.id)) found.set(sent.id, { headers: sent.headers, body: Buffer.from(sent.body) });
  }
  return found;
}

const rawBytes = (sent: readonly Sent[]): number => sent.reduce((sum, one) => sum + one.body.length, 0);
const packed = (sent: readonly Sent[]): Promise<Buffer> => zip(sent.map(sentLine).join(''));

async function unpacked(bytes: Buffer): Promise<Sent[]> {
  const lines = (await unzip(bytes, { maxOutputLength: MOST_BYTES })).toString('utf8').split('\n');
  return lines.flatMap((line) => (line === '' ? [] : [readSentLine(line) ?? notOurs()]));
}

function notOurs(): never {
  throw new Error('a pack of arrivals holds a line that is none');
}
