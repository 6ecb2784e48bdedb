import { v7 as uuidv7 } from 'uuid';
import type { Channel } from '../../core/workflow/channel.ts';
import type { Db } from '../../db/db.ts';

/** Characters of a message that stand in the list of conversations. */
const SHOWN = 200;

/** Something was written between a person and the business: their conversation is at the top, and open if it came from them. */
export async function noteMessage(
  client: Db,
  message: {
    businessId: string;
    leadId: string | null;
    sender: string;
    channel: Channel;
    text: string;
    fromThem: boolean;
    at: Date;
  },
): Promise<void> {
  const { businessId, leadId, sender, channel, text, fromThem, at } = message;
  const key = leadId ? '(lead_id) where lead_id is not null' : '(business_id, sender) where lead_id is null';
  // What comes late does not hide what is newer.
  const newest = (column: string) =>
    `${column} = case when excluded.last_at >= conversation.last_at then excluded.${column} else conversation.${column} end`;
  await client.query(
    `insert into conversation (id, business_id, lead_id, sender, channel, last_text, last_in, last_at, unread) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
     on conflict ${key} do update set unread = conversation.unread + excluded.unread,
       done_at = case when excluded.last_in then null else conversation.done_at end,
       sender = case when excluded.last_in then excluded.sender else conversation.sender end,
       ${['channel', 'last_text', 'last_in'].map(newest).join(', ')}, last_at = greatest(excluded.last_at, conversation.last_at)`,
    [uuidv7(), businessId, leadId, sender, channel, [...text].slice(0, SHOWN).join(''), fromThem, at, fromThem ? 1 : 0],
  );
}

/** A colleague takes over: what workflows still have to do with this person waits until it is handed back. */
export async function holdRuns(client: Db, leadId: string, at: Date): Promise<number> {
  const { rowCount } = await client.query(
    'update run set held_at = $2 where lead_id = $1 and due_at is not null and held_at is null',
    [leadId, at],
  );
  return rowCount ?? 0;
}

/** Handed back: what was due meanwhile goes on now, and the rest at its time. */
export async function freeRuns(client: Db, leadId: string): Promise<number> {
  const { rowCount } = await client.query('update run set held_at = null where lead_id = $1 and held_at is not null', [
    leadId,
  ]);
  return rowCount ?? 0;
}
