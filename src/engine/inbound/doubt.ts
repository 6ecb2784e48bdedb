import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { CHANNEL_WORDS, type Channel } from '../../core/workflow/channel.ts';
import type { Db } from '../../db/db.ts';

const subjectOf = (channel: Channel, leadId: string) => `refusal:${channel}:${leadId}`;

/**
 * They have written something that may mean they want no more, in the transaction of `client`: nothing goes out by itself on this channel until
 * somebody has read it (automatic_consents_of).
 */
export async function doubt(
  client: Db,
  { businessId, leadId, channel, text }: { businessId: string; leadId: string; channel: Channel; text: string },
): Promise<void> {
  const { many } = CHANNEL_WORDS[channel];
  await client.query(
    `insert into needs_you (id, business_id, kind, subject, title, detail, lead_id, created_at)
     select $1, $2, 'maybe_refusal', $3, 'Do they want no more?', coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), l.phone)
       || ' wrote: “' || $4 || '”. Until you say what it means, no ${many} go to them by themselves.', l.id, now() from lead l where l.id = $5
     on conflict (business_id, subject) do update set detail = excluded.detail, created_at = excluded.created_at, settled_at = null, settled_by_id = null`,
    [uuidv7(), businessId, subjectOf(channel, leadId), [...text].slice(0, 200).join(''), leadId],
  );
}

/** They have said it in so many words since, or somebody has read it. */
export const endDoubt = (client: Db, businessId: string, leadId: string, channel: Channel): Promise<unknown> =>
  (client as pg.Pool).query(
    'update needs_you set settled_at = now() where business_id = $1 and subject = $2 and settled_at is null',
    [businessId, subjectOf(channel, leadId)],
  );
