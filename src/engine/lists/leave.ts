import { v7 as uuidv7 } from 'uuid';
import type { Db } from '../../db/db.ts';
import { endRuns } from '../runs/tell-of.ts';

/**
 * Takes a lead off one list, by their own wish or a colleague's; what the list's sequences still had to send is not sent. False when
 * they were not on it.
 */
export async function leaveList(client: Db, leadId: string, listId: string, at: Date): Promise<boolean> {
  const { rowCount } = await client.query(
    `update list_member set state = 'unsubscribed', changed_at = $3 where list_id = $1 and lead_id = $2 and state in ('active', 'waiting')`,
    [listId, leadId, at],
  );
  if (!rowCount) return false;
  await client.query(
    `with ended as (
       update run r set state = case when r.state = 'needs_you' then r.state else 'done' end, due_at = null, finished_at = $3, waits_for = null,
         outcome = 'Ended early: they unsubscribed from the list'
       from nurture_list t where t.id = $1 and r.source_id = t.source_id and r.lead_id = $2 and r.due_at is not null and r.lease_by is null
       returning r.id)
     update delivery d set state = 'refused', detail = 'Not sent: they unsubscribed from the list'
     from ended where d.run_id = ended.id and d.state = 'sending' and d.due_at is null`,
    [listId, leadId, at],
  );
  return true;
}

/** Takes a lead off a list because writing to them leads to nothing: by our wish, so that we may put them on again. */
export async function cleanFromList(client: Db, leadId: string, listId: string, at: Date): Promise<boolean> {
  if (!(await leaveList(client, leadId, listId, at))) return false;
  await client.query(`update list_member set state = 'cleaned' where list_id = $1 and lead_id = $2`, [listId, leadId]);
  return true;
}

/** They want no more emails at all: withdrawn for good, off every list, and what was under way ends. */
export async function leaveEmails(client: Db, leadId: string, how: string, at: Date): Promise<void> {
  await client.query(
    `insert into consent (id, business_id, lead_id, channel, state, wording, how, at)
     select $1, business_id, id, 'email', 'withdrawn', '', $3, $4 from lead where id = $2`,
    [uuidv7(), leadId, how, at],
  );
  await offEveryList(client, leadId, 'unsubscribed', at);
  await endRuns(client, leadId, ['stop'], null);
}

/** They want no more news and offers by email: off every list, and what they asked for is still answered. */
export async function leaveNews(client: Db, leadId: string, how: string, at: Date): Promise<void> {
  await client.query(
    `insert into consent (id, business_id, lead_id, channel, purpose, state, wording, how, at)
     select $1, business_id, id, 'email', 'marketing', 'withdrawn', '', $3, $4 from lead where id = $2`,
    [uuidv7(), leadId, how, at],
  );
  await offEveryList(client, leadId, 'unsubscribed', at);
}

async function offEveryList(
  client: Db,
  leadId: string,
  state: 'unsubscribed' | 'bounced' | 'complained',
  at: Date,
): Promise<void> {
  const { rows } = await client.query<{ list_id: string }>(
    `select list_id from list_member where lead_id = $1 and state in ('active', 'waiting')`,
    [leadId],
  );
  for (const { list_id } of rows) await leaveList(client, leadId, list_id, at);
  if (state !== 'unsubscribed')
    await client.query('update list_member set state = $3 where lead_id = $1 and changed_at = $2', [leadId, at, state]);
}

/** Their address takes no mail, or they have called our mail spam: nothing goes there any more, and it says why. */
export async function writtenOff(
  client: Db,
  leadId: string,
  state: 'bounced' | 'complained',
  how: string,
  at: Date,
): Promise<void> {
  await client.query(
    `insert into consent (id, business_id, lead_id, channel, state, wording, how, at)
     select $1, business_id, id, 'email', 'withdrawn', '', $3, $4 from lead where id = $2`,
    [uuidv7(), leadId, how, at],
  );
  await offEveryList(client, leadId, state, at);
}
