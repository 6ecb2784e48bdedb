import { z } from 'zod';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { type ConversationColumns, FROM, ROW } from './list-conversations.ts';
import type { AddressedLead } from './message-context.ts';

/** The same with who is typing and the lead it is with; without a lead the lead's own are null. */
export interface ConversationRecord extends ConversationColumns, AddressedLead {
  typing_by_id: string | null;
  typing_until: Date | null;
  typing_by: string | null;
  owner_id: string | null;
  owner: string | null;
}

export async function findConversation(use: Use, id: string) {
  const found = z.uuid().safeParse(id).success
    ? await use.db.query<ConversationRecord>(
        `select ${ROW}, c.typing_by_id, c.typing_until, y.name as typing_by, l.first_name, l.last_name, l.email, l.phone, l.answers, l.own, l.owner_id, o.name as owner
         from ${FROM} left join person y on y.id = c.typing_by_id left join person o on o.id = l.owner_id where c.id = $1 and c.business_id = $2`,
        [id, use.actor.businessId],
      )
    : null;
  const row = found?.rows[0];
  if (!row) throw notHere('conversation');
  return row;
}
