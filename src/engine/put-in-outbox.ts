import type { Db } from '../db/db.ts';
import type { PendingDelivery } from './leased-run.ts';

/** A message that leaves apart from a run, as it is written down before. */
export interface OutboxRow {
  id: string;
  businessId: string;
  stepId: string;
  leadId: string;
  at: Date;
}

/** Puts a message to a lead into the outbox, in the transaction of `client`; the same id once only. False when it was there already. */
export async function putInOutbox(
  client: Db,
  { id, businessId, stepId, leadId, at }: OutboxRow,
  { message, connectionId }: Pick<PendingDelivery, 'message' | 'connectionId'>,
): Promise<boolean> {
  const { rowCount } = await client.query(
    `insert into delivery (id, business_id, step_id, item, lead_id, channel, audience, recipient, connection_id, message, state, detail, created_at, due_at)
     values ($1, $2, $3, 0, $4, $5, 'lead', $6, $7, $8, 'sending', '', $9, $9) on conflict do nothing`,
    [id, businessId, stepId, leadId, message.channel, message.to, connectionId, JSON.stringify(message), at],
  );
  return rowCount === 1;
}
