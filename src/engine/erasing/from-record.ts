import { createHash } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import type { Db } from '../../db/db.ts';
import { unpackErased } from '../archive/pack.ts';
import { RESULTS_LOCK, reckonLeads } from '../results/reckon-leads.ts';
import { eraseTraces } from './from-traces.ts';
import { marksOf } from './marks.ts';

const OF_A_RUN = ['moment_result', 'step_result', 'turn_taken'];
/** In this order: what points at another goes before it. */
const OF_A_LEAD = [
  [
    'needs_you',
    'sheet_row_change',
    'conversation',
    'visit',
    'tracked_link',
    'asked_question',
    'form_answer',
    'marketing_slot',
    'delivery',
    'inbound',
    'consent',
    'lead_change',
    'mailing_left',
    'touch',
    'elsewhere_record',
  ],
  ['run', 'lead_note', 'lead_tag', 'list_member', 'task', 'calendar_entry', 'deal', 'lead_identity'],
] as const;

/**
 * Erases a person in the transaction of `client`, once `eraseFromFiles` has gone through the files: everything of them goes. What stays is that they were erased, the hash of how
 * they were known, and which consents there had been, without a name or an address (GDPR Article 17 and 7 (1)). False when
 * there is no such lead.
 */
export async function eraseFromRecord(
  client: Db,
  id: string,
  by: { businessId: string; personId: string | null },
): Promise<boolean> {
  const { rowCount } = await client.query('select from lead where id = $1 and business_id = $2 for update', [
    id,
    by.businessId,
  ]);
  if (!rowCount) return false;
  const identities = await client.query<{ kind: string; value: string }>(
    'select kind, value from lead_identity where lead_id = $1',
    [id],
  );
  const consents = await client.query(
    'select channel, purpose, state, said_by, wording, version, at from consent where lead_id = $1 order by at',
    [id],
  );
  const hash = (text: string) => createHash('sha256').update(`${by.businessId}:${text}`).digest('hex');
  await client.query(
    'insert into erasure (id, business_id, hashes, consents, at, person_id) values ($1, $2, $3, $4, now(), $5)',
    [
      uuidv7(),
      by.businessId,
      JSON.stringify(identities.rows.map(({ kind, value }) => hash(`${kind}:${value}`))),
      JSON.stringify(consents.rows),
      by.personId,
    ],
  );
  // Before what says whose they are goes.
  await client.query(
    `delete from site_visit where business_id = $2 and visitor in (select where_from ->> 'visitor' from touch where lead_id = $1 and where_from ->> 'visitor' is not null)`,
    [id, by.businessId],
  );
  // As they stand now, also what has come of them a second ago.
  await client.query('select pg_advisory_xact_lock($1)', [RESULTS_LOCK]);
  await reckonLeads(client, [id], Date.now());
  // They stay counted, and are nobody: not by the number of an order, or of an appointment, either.
  await client.query(
    'update result_credit set key = gen_random_uuid()::text where result_id in (select id from lead_result where lead_id = $1)',
    [id],
  );
  await client.query('update lead_result set lead_id = null where lead_id = $1', [id]);
  await removeFromRecord(client, [id], by.businessId);
  // There is nobody left to reckon.
  await client.query('delete from result_due where lead_id = $1', [id]);
  return true;
}

/** The same without a word that there was somebody, for people who never were any; many in one go. */
export async function removeFromRecord(client: Db, ids: readonly string[], businessId: string): Promise<void> {
  await eraseTraces(client, businessId, await marksOf(client, businessId, ids));
  const gone = [ids];
  await client.query('delete from lead_merge where kept_id = any($1)', gone);
  const [first, last] = OF_A_LEAD;
  await client.query('delete from needs_you where other_lead_id = any($1)', gone);
  for (const table of first) await client.query(`delete from ${table} where lead_id = any($1)`, gone);
  for (const table of OF_A_RUN)
    await client.query(`delete from ${table} where run_id in (select id from run where lead_id = any($1))`, gone);
  for (const table of last) await client.query(`delete from ${table} where lead_id = any($1)`, gone);
  const arrivals = await client.query<{ id: string; received_at: Date; kept_in: string | null }>(
    'delete from arrival where lead_id = any($1) returning id, received_at, kept_in',
    gone,
  );
  await unpackErased(client, arrivals.rows);
  await client.query('delete from lead where id = any($1)', gone);
}
