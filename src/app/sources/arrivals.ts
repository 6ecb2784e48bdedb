import { z } from 'zod';
import type { Field } from '../../core/fields/field.ts';
import { SAMPLE } from '../../core/source/sample.ts';
import { type WhereFrom, whereWords } from '../../core/source/where-from.ts';
import { type ArrivalRow, sentAs } from '../../engine/archive/pack.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { findSource, moduleOf } from './sources.ts';

export type ArrivalState = 'read' | 'refused' | 'held' | 'aside';

/** One item caught. */
export interface SampleView {
  arrivalId: string;
  receivedAt: string;
  state: ArrivalState;
  problem: string | null;
  repeats: number;
  leadId: string | null;
  fields: Field[];
}

/** An arrival in full: what came, byte for byte as far as it can be shown, and what was understood of it. */
export interface ArrivalView extends SampleView {
  headers: [name: string, value: string][];
  /** False once it is older than what came in is kept for: then only what was understood of it stands. */
  kept: boolean;
  /** The first 100,000 characters; null when it is not text. */
  text: string | null;
  bytes: number;
  where: [label: string, value: string][];
}

export interface LearntField {
  key: string;
  label: string;
  /** In how many of the arrivals looked at it was filled in, of how many. */
  filled: number;
  of: number;
  examples: string[];
}

interface Row {
  id: string;
  received_at: Date;
  state: ArrivalState;
  problem: string | null;
  repeats: number;
  lead_id: string | null;
  fields: Field[];
}

const sampleView = (row: Row): SampleView => ({
  arrivalId: row.id,
  receivedAt: new Date(row.received_at).toISOString(),
  state: row.state,
  problem: row.problem,
  repeats: row.repeats,
  leadId: row.lead_id,
  fields: row.fields,
});

const PAGE = 20;

/** Items caught, newest first, a page at a time; `before` is the time of the last one seen. */
export async function listArrivals(
  use: Use,
  sourceId: string,
  { state, before }: { state?: string | null; before?: string | null } = {},
): Promise<SampleView[]> {
  const source = await findSource(use, sourceId);
  const upTo = before && !Number.isNaN(Date.parse(before)) ? new Date(before) : null;
  const { rows } = await use.db.query<Row>(
    `select id, received_at, state, problem, repeats, lead_id, fields from arrival where source_id = $1
       and ($2::text is null or state = $2) and ($3::timestamptz is null or received_at < $3) order by received_at desc, id desc limit ${PAGE}`,
    [source.id, state || null, upTo],
  );
  return rows.map(sampleView);
}

export async function getArrival(use: Use, sourceId: string, arrivalId: string): Promise<ArrivalView> {
  const source = await findSource(use, sourceId);
  const { rows } = z.uuid().safeParse(arrivalId).success
    ? await use.db.query<Row & ArrivalRow & { where_from: WhereFrom }>(
        'select id, received_at, state, problem, repeats, lead_id, fields, headers, body, kept_in, where_from from arrival where id = $1 and source_id = $2',
        [arrivalId, source.id],
      )
    : { rows: [] };
  const row = rows[0];
  if (!row) throw notHere('arrival');
  const sent = (await sentAs(use.db, use.actor.businessId, [row])).get(row.id);
  return {
    ...sampleView(row),
    kept: sent !== undefined,
    headers: Object.entries(sent?.headers ?? {}),
    text: sent ? asText(sent.body) : null,
    bytes: sent?.body.length ?? 0,
    where: whereWords(row.where_from).map(([, label, value]) => [label, value]),
  };
}

/** A file that came with a mail; the mail itself is what is kept, the file is taken out of it. */
export async function getAttachment(
  use: Use,
  sourceId: string,
  arrivalId: string,
  n: number,
): Promise<{ name: string; bytes: Uint8Array }> {
  const source = await findSource(use, sourceId);
  const { rows } = await use.db.query<ArrivalRow>(
    'select id, received_at, kept_in, headers, body from arrival where id::text = $1 and source_id = $2',
    [arrivalId, source.id],
  );
  const sent = (await sentAs(use.db, use.actor.businessId, rows)).get(arrivalId);
  const found =
    sent && source.kind === 'mailbox' ? await use.runtime.reader.read('attachment', { body: sent.body, n }) : null;
  if (!found) throw notHere('attachment');
  await use.write(async (tx) => tx.note('arrival.attachment', arrivalId, { n }));
  return found;
}

const MOST_SHOWN = 100_000;

function asText(body: Buffer): string | null {
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(body);
    return text.includes('\0') ? null : text.slice(0, MOST_SHOWN);
  } catch {
    return null;
  }
}

/** Every field the last 200 arrivals had, in the order they first stand in, with up to three values seen. */
export async function learntFields(use: Use, sourceId: string): Promise<LearntField[]> {
  const source = await findSource(use, sourceId);
  const { rows } = await use.db.query<{ fields: Field[] }>(
    `select fields from arrival where source_id = $1 and state <> 'refused' order by received_at desc limit 200`,
    [source.id],
  );
  const found = new Map<string, LearntField>();
  for (const { fields } of rows)
    for (const field of fields) {
      const known = found.get(field.key) ?? {
        key: field.key,
        label: field.label,
        filled: 0,
        of: rows.length,
        examples: [],
      };
      found.set(field.key, known);
      if (field.value === '') continue;
      known.filled += 1;
      const short = field.value.slice(0, 80);
      if (known.examples.length < 3 && !known.examples.includes(short)) known.examples.push(short);
    }
  return [...found.values()];
}

/** Arrivals of each of the last 30 days of the business, the oldest first, by what became of them. */
export async function arrivalsByDay(
  use: Use,
  sourceId: string,
): Promise<{ day: string; read: number; other: number }[]> {
  const source = await findSource(use, sourceId);
  const { rows } = await use.db.query<{ day: string; read: number; other: number }>(
    // All of them by the index alone, and the few that were not read by theirs: a month may hold very many.
    `select to_char(d, 'YYYY-MM-DD') as day, (came.n - unread.n)::int as read, unread.heard::int as other
     from generate_series((now() at time zone $2)::date - 29, (now() at time zone $2)::date, interval '1 day') d,
       lateral (select count(*) as n from arrival a where a.source_id = $1 and a.received_at >= d at time zone $2
         and a.received_at < (d + interval '1 day') at time zone $2) came,
       lateral (select count(*) as n, count(*) filter (where a.problem is distinct from $3) as heard from arrival a where a.source_id = $1 and a.state <> 'read'
         and a.received_at >= d at time zone $2 and a.received_at < (d + interval '1 day') at time zone $2) unread
     order by d`,
    [source.id, use.actor.timeZone, SAMPLE],
  );
  return rows;
}

/** What handling arrivals again came to, in words. */
function againWords({
  read,
  aside,
  refused,
  started,
}: Record<'read' | 'aside' | 'refused' | 'started', number>): string {
  const runs = `${started} ${started === 1 ? 'run has' : 'runs have'} begun`;
  const nothing =
    'no workflow was started: those that listen have run for it already or know the person, or none listens. To take up one that stopped, open it in the workflow’s log';
  return [
    ...(read > 0 ? [`${read} read again, and ${started > 0 ? runs : nothing}.`] : []),
    ...(aside > 0 ? [`${aside} ${aside === 1 ? 'is' : 'are'} kept out as before.`] : []),
    ...(refused > 0
      ? [`${refused} still cannot be understood and ${refused === 1 ? 'stays' : 'stay'} as they are.`]
      : []),
  ].join(' ');
}

export const HandleAgain = z.object({ arrivalIds: z.array(z.uuid()).min(1, 'Choose at least one arrival').max(500) });

/**
 * Reads chosen arrivals once more and starts what listens now. Nobody is messaged twice by it: a workflow that has run for an
 * arrival, or knows its person, is not started again.
 */
export async function handleAgain(
  use: Use,
  sourceId: string,
  { arrivalIds }: z.infer<typeof HandleAgain>,
): Promise<{ read: number; aside: number; refused: number; started: number; done: string }> {
  demand(use.actor, 'build');
  const found = await findSource(use, sourceId);
  if (found.state !== 'live')
    throw new Refusal(409, 'not-live', 'Put the source live first; then what was kept can be handled.');
  const source = (await use.runtime.settingsCache.sourceNow(found.id))!;
  const { rows } = await use.db.query<ArrivalRow>(
    'select id, received_at, kept_in, headers, body from arrival where source_id = $1 and id = any($2::uuid[]) order by received_at',
    [found.id, arrivalIds],
  );
  const sent = await sentAs(use.db, use.actor.businessId, rows);
  if (sent.size < rows.length)
    throw new Refusal(
      409,
      'kept-no-more',
      'Some of these are older than what comes in is kept for, so there is nothing left to read. Choose newer ones, or read an archive file again in the settings.',
    );
  // Each is handled in a transaction of its own; what was asked for is noted before the first.
  await use.write(async (tx) => tx.note('arrival.again', sourceId, { arrivals: rows.map((row) => row.id) }));
  const told = { read: 0, aside: 0, refused: 0, started: 0 };
  for (const row of rows) {
    const { headers, body } = sent.get(row.id)!;
    const raw = { headers, contentType: headers['content-type'] ?? moduleOf(found).definition.contentType ?? '', body };
    const { came, started } = await use.runtime.intake.handleAgain(source, row.id, raw);
    told[came] += 1;
    told.started += started;
  }
  return { ...told, done: againWords(told) };
}

/** Fetches the newest item from the service and keeps it as a sample: it is looked at, and starts nothing. */
export async function fetchSample(use: Use, sourceId: string): Promise<SampleView | null> {
  demand(use.actor, 'build');
  const found = await findSource(use, sourceId);
  const { puller, definition } = moduleOf(found);
  if (!puller) throw new Refusal(409, 'not-fetched', 'This source is not fetched from: wait for it to send something.');
  const ports = use.runtime.sourcePorts.of(use.actor.businessId, use.actor.businessName, found.id);
  const newest = await puller.newest(ports, definition.settings.parse(found.settings));
  if (!newest.ok) throw new Refusal(502, 'service', newest.problem);
  if (!newest.raw) return null;
  const source = (await use.runtime.settingsCache.sourceNow(found.id))!;
  const arrivalId = await use.runtime.intake.keepSample(source, newest.raw);
  return getArrival(use, sourceId, arrivalId);
}
