import { demand } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { settleRun } from '../workflows/run-again.ts';

/** Of what is about a connection: "connection:…", "key-end:…:2026-12-24". */
const CONNECTION = /^(?:connection|key-end):([0-9a-f-]{36})/;

export interface NeedView {
  id: string;
  kind:
    | 'message_refused'
    | 'step_asks'
    | 'arrival_refused'
    | 'message_lost'
    | 'message_unsure'
    | 'step_failed'
    | 'source_trouble'
    | 'entries_expiring'
    | 'draft_waits'
    | 'form_refused'
    | 'number_shared'
    | 'maybe_refusal'
    | 'mail_unread'
    | 'text_ceiling'
    | 'source_flood'
    | 'service_trouble'
    | 'key_ends';
  title: string;
  detail: string;
  createdAt: string;
  runId: string | null;
  workflowId: string | null;
  stepId: string | null;
  leadId: string | null;
  /** The other of two leads it is about. */
  otherLeadId: string | null;
  arrivalId: string | null;
  sourceId: string | null;
  connectionId: string | null;
}

export async function listNeeds(use: Use, most = 20): Promise<{ needs: NeedView[]; count: number }> {
  const { rows } = await use.db.query(
    `select n.*, r.workflow_id, count(*) over ()::int as total from needs_you n left join run r on r.id = n.run_id
     where n.business_id = $1 and n.settled_at is null order by n.created_at desc limit $2`,
    [use.actor.businessId, most],
  );
  return {
    count: rows[0]?.total ?? 0,
    needs: rows.map((row) => ({
      id: row.id,
      kind: row.kind,
      title: row.title,
      detail: row.detail,
      createdAt: row.created_at.toISOString(),
      runId: row.run_id,
      workflowId: row.workflow_id,
      stepId: row.step_id,
      leadId: row.lead_id,
      otherLeadId: row.other_lead_id,
      arrivalId: row.arrival_id,
      sourceId: row.source_id,
      connectionId: CONNECTION.exec(row.subject)?.[1] ?? null,
    })),
  };
}

export async function countNeeds(use: Use): Promise<number> {
  const { rows } = await use.db.query<{ n: number }>(
    'select count(*)::int as n from needs_you where business_id = $1 and settled_at is null',
    [use.actor.businessId],
  );
  return rows[0]!.n;
}

export async function settleNeed(tx: Write, id: string): Promise<{ done: string }> {
  demand(tx.actor, 'build');
  const { rows } = await tx.db.query<{ run_id: string | null; fresh: boolean }>(
    `with fresh as (update needs_you set settled_at = now(), settled_by_id = $3 where id = $1 and business_id = $2 and settled_at is null returning id)
     select run_id, exists (select from fresh) as fresh from needs_you where id = $1 and business_id = $2`,
    [id, tx.actor.businessId, tx.actor.personId],
  );
  if (!rows[0]) throw notHere('matter');
  // Somebody else was quicker.
  if (!rows[0].fresh) return { done: 'Somebody else has handled it already.' };
  tx.note('need.handled', id);
  const run = rows[0].run_id;
  const done = { done: 'Taken off the pile: it counts as handled.' };
  if (!run) {
    tx.ring();
    return done;
  }
  const { rows: left } = await tx.db.query('select 1 from needs_you where run_id = $1 and settled_at is null', [run]);
  if (left.length === 0) await settleRun(tx, run);
  return done;
}
