import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { createGunzip, gzipSync } from 'node:zlib';
import { z } from 'zod';
import { FRESH_MONTHS, goesAt, KEEPS_MONTHS, keptFrom, monthKey } from '../../core/archive/months.ts';
import { headLine, readHead, readSentLine, type Sent } from '../../core/archive/sent-line.ts';
import { Business } from '../../db/entities/business.ts';
import { makePart, packTogether } from '../../engine/archive/pack.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export const KeepingInput = z.object({
  /** Null for good. */
  keepsSentMonths: z
    .number()
    .nullable()
    .refine(
      (months) => months === null || (KEEPS_MONTHS as readonly number[]).includes(months),
      'Choose how long from the list',
    ),
});

/** A month that is packed. */
export interface ArchivedMonth {
  /** Its first day. */
  month: string;
  arrivals: number;
  rawBytes: number;
  bytes: number;
  /** When it goes; null when it is kept for good. */
  goesAt: string | null;
}

export interface ArchiveView {
  keepsSentMonths: number | null;
  choices: readonly number[];
  freshMonths: number;
  months: ArchivedMonth[];
}

/** How long this business keeps what was sent, in months; null for good. */
const keepsOf = async (use: Use): Promise<number | null> =>
  (await use.em.findOneOrFail(Business, { id: use.actor.businessId })).keepsSentMonths ?? null;

/** What came in long ago, as it was sent, month by month, the newest first. */
export async function getArchive(use: Use): Promise<ArchiveView> {
  const keepsSentMonths = await keepsOf(use);
  const { rows } = await use.db.query<{ month: string; arrivals: number; raw: number; bytes: number }>(
    `select month::text, sum(arrivals)::int as arrivals, sum(raw_bytes)::float as raw, sum(octet_length(bytes))::float as bytes
     from arrival_pack where business_id = $1 group by month order by month desc`,
    [use.actor.businessId],
  );
  return {
    keepsSentMonths,
    choices: KEEPS_MONTHS,
    freshMonths: FRESH_MONTHS,
    months: rows.map(({ month, arrivals, raw, bytes }) => ({
      ...{ month, arrivals, rawBytes: raw, bytes },
      goesAt: keepsSentMonths === null ? null : goesAt(month, keepsSentMonths).toISOString(),
    })),
  };
}

/** How long what came in is kept as it was sent. What was understood of it stays with the lead. */
export async function changeKeeping(tx: Write, input: z.infer<typeof KeepingInput>): Promise<void> {
  demand(tx.actor, 'manage');
  const business = await tx.em.findOneOrFail(Business, { id: tx.actor.businessId });
  Object.assign(business, input);
  tx.note('business.keeping', business.id, input);
}

/** A month as a file (docs/archive.md): its packs one after the other, as gzip allows (RFC 1952, section 2.2). */
export async function archiveFile(
  use: Use,
  month: string,
): Promise<{ name: string; bytes: ReadableStream<Uint8Array> }> {
  demand(use.actor, 'manage');
  const { db } = use;
  const { businessId } = use.actor;
  const ids = z.iso.date().safeParse(month).success
    ? (
        await db.query<{ id: string }>(
          'select id from arrival_pack where month = $1 and business_id = $2 order by id',
          [month, businessId],
        )
      ).rows
    : [];
  if (ids.length === 0) throw notHere('month');
  await use.write(async (tx) => tx.note('archive.download', businessId, { month }));
  async function* parts() {
    yield new Uint8Array(gzipSync(headLine(month)));
    for (const { id } of ids) {
      const { rows } = await db.query<{ bytes: Buffer }>(
        'select bytes from arrival_pack where month = $1 and id = $2',
        [month, id],
      );
      // Gone meanwhile: the last of it was erased.
      if (rows[0]) yield new Uint8Array(rows[0].bytes);
    }
  }
  return {
    name: `arrivals-${month.slice(0, 7)}.ndjson.gz`,
    bytes: Readable.toWeb(Readable.from(parts(), { objectMode: true })) as ReadableStream<Uint8Array>,
  };
}

/** Bytes of an archive file that is read again, packed; lines of it put back by one transaction; the longest line, in characters. */
export const MOST_ARCHIVE_BYTES = 200 * 1024 * 1024;
const AT_ONCE = 500;
const MOST_LINE = 64 * 1024 * 1024;
const DAMAGED = 'damaged';

export interface ReadAgain {
  putBack: number;
  /** Still kept here: nothing was to be done. */
  hereAlready: number;
  /** Not known here: of another business, or erased since. */
  unknown: number;
  /** Lines that are none of ours. */
  broken: number;
  done: string;
}

/**
 * Reads an archive file again. What is no longer kept of a known arrival is put back; nothing starts by it, and nobody who was erased comes back.
 * Cut off half-way, what was read until then stands, and the same file can be read once more.
 */
export async function readArchive(use: Use, file: { bytes: Buffer }): Promise<ReadAgain> {
  demand(use.actor, 'manage');
  const keepsSentMonths = await keepsOf(use);
  const told = { putBack: 0, hereAlready: 0, unknown: 0, broken: 0 };
  let month: string | null = null;
  let batch: Sent[] = [];
  const put = async () => {
    if (batch.length > 0) await putBack(use, batch, told);
    batch = [];
  };
  const take = async (line: string) => {
    if (month === null) {
      const head = readHead(line);
      if (!head.ok) throw new Refusal(422, 'archive', head.problem);
      month = head.month;
      const limit = keptFrom(use.runtime.now(), keepsSentMonths);
      if (limit && Date.parse(`${month}T00:00:00Z`) < limit.getTime())
        throw new Refusal(
          409,
          'past-keeping',
          `What came in is kept for ${keepsSentMonths} months, and this file is older: it would go again within the hour. Say first that it is kept longer.`,
        );
      return;
    }
    if (line === '') return;
    const sent = readSentLine(line);
    if (sent && monthKey(sent.receivedAt) === month) batch.push(sent);
    else told.broken += 1;
    if (batch.length === AT_ONCE) await put();
  };
  try {
    for await (const line of linesOf(file.bytes)) await take(line);
  } catch (error) {
    // What was read before it broke off is put back all the same, as is said.
    if (error instanceof Refusal && error.code === DAMAGED) await put();
    throw error;
  }
  if (month === null) throw new Refusal(422, 'archive', 'The file is empty.');
  await put();
  await use.write(async (tx) => tx.note('archive.read', tx.actor.businessId, { month, ...told }));
  const count = (n: number, what: string) => (n > 0 ? [`${n.toLocaleString('en')} ${what}`] : []);
  return {
    ...told,
    done: `${[
      `${told.putBack.toLocaleString('en')} put back`,
      ...count(told.hereAlready, 'still here'),
      ...count(told.unknown, 'not known here, or erased since, and left out'),
      ...count(told.broken, 'could not be read'),
    ].join(', ')}.`,
  };
}

/** Unpacked as it is read: a file that unpacks to more than memory holds is only as dear as its longest line. */
async function* linesOf(bytes: Buffer): AsyncGenerator<string> {
  const plain =
    bytes[0] === 0x1f && bytes[1] === 0x8b ? Readable.from([bytes]).pipe(createGunzip()) : Readable.from([bytes]);
  let length = 0;
  const guarded = Readable.from(
    (async function* () {
      for await (const chunk of plain as AsyncIterable<Buffer>) {
        const end = chunk.lastIndexOf(0x0a);
        length = end < 0 ? length + chunk.length : chunk.length - end;
        if (length > MOST_LINE)
          throw new Refusal(422, 'archive', 'This is no archive of arrivals: a line in it is far too long.');
        yield chunk;
      }
    })(),
  );
  try {
    yield* createInterface({ input: guarded, crlfDelay: Number.POSITIVE_INFINITY });
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw new Refusal(422, DAMAGED, 'The file is damaged or breaks off. What could be read of it was put back.');
  }
}

/** Puts arrivals of one month back, in one transaction. */
function putBack(
  use: Use,
  batch: readonly Sent[],
  told: { putBack: number; hereAlready: number; unknown: number },
): Promise<void> {
  return use.write(async (tx) => {
    const { db, actor } = tx;
    const byId = new Map(batch.map((sent) => [sent.id, sent]));
    const { rows } = await db.query<{ id: string; received_at: Date; kept: boolean }>(
      `select a.id, a.received_at, a.kept_in is null or exists (select from arrival_pack p where p.id = a.kept_in
           and p.month = date_trunc('month', a.received_at at time zone 'UTC')::date) as kept
       from arrival a where a.business_id = $1 and a.id = any($2) order by a.id for update`,
      [actor.businessId, [...byId.keys()]],
    );
    // The time is ours, not the file's: a row belongs to the month it came in.
    const missing = rows.filter((row) => !row.kept);
    told.hereAlready += rows.length - missing.length;
    told.unknown += byId.size - rows.length;
    told.putBack += missing.length;
    for (const month of new Set(missing.map((row) => monthKey(row.received_at)))) {
      const theirs = missing.filter((row) => monthKey(row.received_at) === month);
      await makePart(db, month);
      await packTogether(
        db,
        actor.businessId,
        month,
        theirs.map((row) => ({ ...byId.get(row.id)!, receivedAt: row.received_at })),
      );
    }
  });
}
