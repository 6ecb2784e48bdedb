import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import type { Db } from '../../db/db.ts';

/** A message that leaves apart from what a run writes, as it stands in the queue. */
export interface Queued {
  id: string;
  businessId: string;
  leadId: string;
  stepId: string;
  message: OutgoingMessage;
  connectionId: string;
  /** When it was made. */
  at: Date;
  /** When it is to go out; at once where nothing is said. */
  dueAt?: Date;
  /** What it belongs to: an answer to a question of a run, one of many, what a colleague wrote. */
  of?: {
    run?: { id: string; item: number };
    mailing?: { id: string; rank: number; variant: string | null };
    personId?: string;
  };
}

/**
 * Writes messages into the queue of what goes out, any number in one statement, in the transaction of `client`: the outbox hands them over. Each id
 * once only. Gives how many were new.
 */
export async function enqueue(client: Db, messages: readonly Queued[]): Promise<number> {
  if (messages.length === 0) return 0;
  const rows = messages.map(({ id, businessId, leadId, stepId, message, connectionId, at, dueAt = at, of = {} }) => ({
    ...{ id, business_id: businessId, lead_id: leadId, step_id: stepId, connection_id: connectionId, message },
    ...{ channel: message.channel, audience: message.audience, recipient: message.to, created_at: at, due_at: dueAt },
    ...{ run_id: of.run?.id ?? null, item: of.run?.item ?? 0, sent_by_id: of.personId ?? null },
    ...{ mailing_id: of.mailing?.id ?? null, rank: of.mailing?.rank ?? 0, variant: of.mailing?.variant ?? null },
  }));
  const { rowCount } = await client.query(
    `insert into delivery (id, business_id, run_id, step_id, item, lead_id, channel, audience, recipient, connection_id, message, state, detail,
       created_at, due_at, rank, mailing_id, variant, sent_by_id)
     select x.id, x.business_id, x.run_id, x.step_id, x.item, x.lead_id, x.channel, x.audience, x.recipient, x.connection_id, x.message, 'sending', '',
       x.created_at, x.due_at, x.rank, x.mailing_id, x.variant, x.sent_by_id
     from jsonb_to_recordset($1::jsonb) as x(id uuid, business_id uuid, run_id uuid, step_id text, item int, lead_id uuid, channel text, audience text,
       recipient text, connection_id uuid, message jsonb, created_at timestamptz, due_at timestamptz, rank int, mailing_id uuid, variant text,
       sent_by_id uuid)
     on conflict do nothing`,
    [JSON.stringify(rows)],
  );
  return rowCount ?? 0;
}
