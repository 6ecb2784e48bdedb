import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Db } from '../../db/db.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { type ArrivalRow, sentAs } from '../../engine/archive/pack.ts';
import { eraseFromFiles } from '../../engine/erasing/from-files.ts';
import { eraseFromRecord } from '../../engine/erasing/from-record.ts';
import { marksOf } from '../../engine/erasing/marks.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** Tables whose rows belong to a lead and go with it, with what tells a row of theirs. */
const OWNED = [
  { table: 'arrival', id: 'id' },
  { table: 'touch', id: 'id' },
  { table: 'consent', id: 'id' },
  { table: 'lead_change', id: 'id' },
  { table: 'run', id: 'id' },
  { table: 'delivery', id: 'id' },
  { table: 'inbound', id: 'id' },
  { table: 'visit', id: 'id' },
  { table: 'tracked_link', id: 'token' },
  { table: 'asked_question', id: 'id' },
  { table: 'form_answer', id: 'delivery_id' },
  { table: 'marketing_slot', id: 'delivery_id' },
  { table: 'lead_note', id: 'id' },
  { table: 'task', id: 'id' },
  { table: 'calendar_entry', id: 'id' },
  { table: 'deal_move', id: 'id' },
  { table: 'sheet_row_change', id: 'id' },
  { table: 'noted_outcome', id: 'id' },
] as const;
/** A lead has one of these at most per tag, list or open pipeline: what both have stays with the one that is kept. */
const SHARED = [
  { table: 'lead_tag', by: 'tag_id', only: 'true' },
  { table: 'list_member', by: 'list_id', only: 'true' },
  { table: 'deal', by: 'pipeline_id', only: 'x.closed_at is null' },
  { table: 'conversation', by: 'business_id', only: 'true' },
  { table: 'mailing_left', by: 'mailing_id', only: 'true' },
  { table: 'elsewhere_record', by: 'place', only: 'true' },
] as const;

export interface MergePreview {
  kept: { id: string; name: string; email: string; phone: string };
  gone: { id: string; name: string; email: string; phone: string };
  /** What would move over, in words: "3 messages". */
  moves: string[];
  /** What would be filled in on the one that is kept. */
  fills: string[];
}

interface LeadRow {
  id: string;
  business_id: string;
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  answers: Record<string, string>;
  own: Record<string, string>;
  owner_id: string | null;
  created_at: string;
  last_arrival_at: string;
}

const NAMES: Record<string, [string, string]> = {
  arrival: ['arrival', 'arrivals'],
  delivery: ['message sent', 'messages sent'],
  inbound: ['message received', 'messages received'],
  consent: ['consent', 'consents'],
  run: ['run', 'runs'],
  lead_note: ['note', 'notes'],
  task: ['task', 'tasks'],
  deal: ['deal', 'deals'],
};

const nameOf = (lead: LeadRow) => `${lead.first_name} ${lead.last_name}`.trim() || lead.email || lead.phone;
const short = (lead: LeadRow) => ({ id: lead.id, name: nameOf(lead), email: lead.email, phone: lead.phone });

async function both(client: Db, use: Use, keptId: string, goneId: string) {
  const ids = [keptId, goneId];
  if (keptId === goneId || !ids.every((id) => z.uuid().safeParse(id).success)) throw notHere('lead');
  const { rows } = await client.query<LeadRow>(
    'select * from lead where id = any($1::uuid[]) and business_id = $2 and is_person order by id',
    [ids, use.actor.businessId],
  );
  const kept = rows.find((row) => row.id === keptId);
  const gone = rows.find((row) => row.id === goneId);
  if (!kept || !gone) throw notHere('lead');
  return { kept, gone };
}

const FIELDS = ['first_name', 'last_name', 'email', 'phone'] as const;

/** What making one lead of two would do. Nothing is changed. */
export async function previewMerge(use: Use, keptId: string, goneId: string): Promise<MergePreview> {
  const { db } = use;
  const { kept, gone } = await both(db, use, keptId, goneId);
  const moves: string[] = [];
  for (const [table, [single, several]] of Object.entries(NAMES)) {
    const { rows } = await db.query<{ n: number }>(`select count(*)::int as n from ${table} where lead_id = $1`, [
      goneId,
    ]);
    const n = rows[0]!.n;
    if (n > 0) moves.push(`${n} ${n === 1 ? single : several}`);
  }
  const fills = FIELDS.filter((key) => kept[key] === '' && gone[key] !== '').map((key) => gone[key]);
  return { kept: short(kept), gone: short(gone), moves, fills };
}

/** Makes one lead of two that are the same person. What was moved is written down, so that it can be undone. */
export async function mergeLeads(tx: Write, keptId: string, goneId: string): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  const id = uuidv7();
  // In the order of their ids, as everything that locks two leads does.
  for (const one of [keptId, goneId].sort())
    await tx.db.query('select pg_advisory_xact_lock(hashtextextended($1, 17))', [one]);
  const { kept, gone } = await both(tx.db, tx, keptId, goneId);
  const busy = await tx.db.query('select from run where lead_id = any($1::uuid[]) and lease_by is not null limit 1', [
    [keptId, goneId],
  ]);
  if (busy.rowCount)
    throw new Refusal(
      409,
      'under-way',
      'A workflow is working on one of them this very moment. Try again in a few seconds.',
    );
  const moved: Record<string, unknown[]> = {};
  const move = async (table: string, key: string, where: string) => {
    const { rows } = await tx.db.query<{ key: unknown }>(
      `update ${table} x set lead_id = $1 where x.lead_id = $2 and ${where} returning x.${key} as key`,
      [keptId, goneId],
    );
    if (rows.length > 0) moved[table] = rows.map((row) => row.key);
  };
  for (const { table, id: key } of OWNED) await move(table, key, 'true');
  for (const { table, by, only } of SHARED) {
    const other = `exists (select from ${table} o where o.lead_id = $1 and o.${by} = x.${by}${table === 'deal' ? ' and o.closed_at is null' : ''})`;
    await move(table, table === 'deal' ? 'id' : by, `not (${only} and ${other})`);
  }
  const identities = await tx.db.query<{ kind: string; value: string }>(
    'update lead_identity set lead_id = $1 where lead_id = $2 returning kind, value',
    [keptId, goneId],
  );
  moved.lead_identity = identities.rows.map(({ kind, value }) => ({ kind, value }));
  await changedBy(tx.db, { kind: 'person', id: tx.actor.personId });
  await tx.db.query(
    `update lead set first_name = $2, last_name = $3, email = $4, phone = $5, answers = $6::jsonb || answers, owner_id = coalesce(owner_id, $7),
       created_at = least(created_at, $8), last_arrival_at = greatest(last_arrival_at, $9), own = $10::jsonb || own where id = $1`,
    [
      keptId,
      ...FIELDS.map((key) => kept[key] || gone[key]),
      JSON.stringify(gone.answers),
      gone.owner_id,
      gone.created_at,
      gone.last_arrival_at,
      JSON.stringify(gone.own),
    ],
  );
  await tx.db.query('update lead set is_person = false where id = $1', [goneId]);
  await tx.db.query(
    `insert into lead_merge (id, business_id, kept_id, gone, before, moved, at, person_id) values ($1, $2, $3, $4, $5, $6, now(), $7)`,
    [
      id,
      tx.actor.businessId,
      keptId,
      JSON.stringify(gone),
      JSON.stringify(kept),
      JSON.stringify(moved),
      tx.actor.personId,
    ],
  );
  tx.note('lead.merge', keptId, { gone: goneId });
  return { id };
}

/** Makes two leads of one again: everything that was moved goes back, and both are as they were. */
export async function undoMerge(tx: Write, mergeId: string): Promise<{ goneId: string }> {
  demand(tx.actor, 'build');
  const { rows } = await tx.db.query<{
    kept_id: string;
    gone: LeadRow;
    before: LeadRow;
    moved: Record<string, unknown[]>;
  }>(
    'update lead_merge set undone_at = now() where id = $1 and business_id = $2 and undone_at is null returning kept_id, gone, before, moved',
    [mergeId, tx.actor.businessId],
  );
  const merge = rows[0];
  if (!merge) throw notHere('merge');
  const { kept_id: keptId, gone, before, moved } = merge;
  const keys = new Map<string, string>([
    ...OWNED.map(({ table, id }) => [table, id] as const),
    ...SHARED.map(({ table, by }) => [table, table === 'deal' ? 'id' : by] as const),
  ]);
  for (const [table, key] of keys)
    if (moved[table])
      await tx.db.query(`update ${table} set lead_id = $1 where lead_id = $2 and ${key}::text = any($3::text[])`, [
        gone.id,
        keptId,
        moved[table],
      ]);
  for (const { kind, value } of (moved.lead_identity ?? []) as { kind: string; value: string }[])
    await tx.db.query('update lead_identity set lead_id = $1 where lead_id = $2 and kind = $3 and value = $4', [
      gone.id,
      keptId,
      kind,
      value,
    ]);
  await changedBy(tx.db, { kind: 'person', id: tx.actor.personId });
  await tx.db.query('update lead set is_person = true where id = $1', [gone.id]);
  // Only what the merge itself filled in is taken back: what was put right since stays.
  await tx.db.query(
    `update lead set ${FIELDS.map((key, i) => `${key} = case when $${i + 2} = '' and ${key} = $${i + 6} then '' else ${key} end`).join(', ')},
       created_at = $10 where id = $1`,
    [keptId, ...FIELDS.map((key) => before[key]), ...FIELDS.map((key) => gone[key]), before.created_at],
  );
  tx.note('lead.part', gone.id, { merge: mergeId });
  return { goneId: gone.id };
}

/** Everything that is known of one person, as JSON they can be given (GDPR Article 15 and 20). */
export async function exportLead(tx: Write, id: string): Promise<Record<string, unknown>> {
  demand(tx.actor, 'build');
  const { db } = tx;
  const lead = (
    await db.query<LeadRow>('select * from lead where id = $1 and business_id = $2', [id, tx.actor.businessId])
  ).rows[0];
  if (!lead) throw notHere('lead');
  const out: Record<string, unknown> = { lead };
  for (const table of ['lead_identity', ...OWNED.map((one) => one.table), ...SHARED.map((one) => one.table)]) {
    if (table === 'arrival') continue;
    const { rows } = await db.query(`select to_jsonb(x) as row from ${table} x where x.lead_id = $1`, [id]);
    out[table] = rows.map((row) => row.row);
  }
  out.arrival = await arrivalsOf(tx, id);
  tx.note('lead.export', id);
  return out;
}

/** What came in of them, as it was sent where that is still kept: bytes that are no text in the escape format of PostgreSQL. */
async function arrivalsOf({ db, actor }: Write, leadId: string): Promise<Record<string, unknown>[]> {
  const { rows } = await db.query<ArrivalRow & { row: Record<string, unknown> }>(
    `select to_jsonb(x) - 'kept_in' - 'body' as row, x.id, x.received_at, x.kept_in, x.headers, x.body from arrival x where x.lead_id = $1 order by x.received_at`,
    [leadId],
  );
  const sent = await sentAs(db, actor.businessId, rows);
  return Promise.all(
    rows.map(async ({ id, row }) => {
      const { rows: words } = await db.query<{ body: string | null }>(`select encode($1::bytea, 'escape') as body`, [
        sent.get(id)?.body ?? null,
      ]);
      return { ...row, headers: sent.get(id)?.headers ?? null, body: words[0]!.body };
    }),
  );
}

/** Erases a person for good, when their name was typed to say so. */
export async function eraseLead(use: Use, id: string, typed: string): Promise<void> {
  demand(use.actor, 'manage');
  const { tables } = use.runtime;
  const { db } = use;
  const { businessId, personId } = use.actor;
  const { rows } = await db.query<LeadRow>('select * from lead where id = $1 and business_id = $2', [id, businessId]);
  if (!rows[0]) throw notHere('lead');
  const name = nameOf(rows[0]);
  if (typed.trim().toLowerCase() !== name.toLowerCase())
    throw new Refusal(422, 'name', `Type “${name}” to erase them.`);
  await eraseFromFiles({ db, tables }, businessId, await marksOf(db, businessId, [id]));
  return use.write(async (tx) => {
    await eraseFromRecord(tx.db, id, { businessId, personId });
    tx.note('lead.erase', id);
  });
}
