import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { readPhone } from '../../core/people/phone.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { lockLead } from '../../db/hot/lock-lead.ts';
import { closeQuestions } from '../../engine/inbound/answer-question.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';

/**
 * A number is no longer this person's: it is taken off them, nothing more goes to it on their account, and whoever writes from it
 * from now on is somebody new. What was written stands where it stood.
 */
export async function releaseNumber(tx: Write, leadId: string): Promise<void> {
  demand(tx.actor, 'do-work');
  if (!z.uuid().safeParse(leadId).success) throw notHere('lead');
  const { now } = tx.runtime;
  const { businessId, country, personId } = tx.actor;
  await lockLead(tx.db, leadId);
  const { rows } = await tx.db.query<{ phone: string }>(
    'select phone from lead where id = $1 and business_id = $2 for update',
    [leadId, businessId],
  );
  if (!rows[0]) throw notHere('lead');
  const { phone } = rows[0];
  if (phone === '') throw new Refusal(409, 'no-number', 'No number is known of them.');
  const read = readPhone(phone, country);
  const at = new Date(now());
  await changedBy(tx.db, { kind: 'person', id: personId });
  await tx.db.query(`update lead set phone = '' where id = $1`, [leadId]);
  await tx.db.query(`delete from lead_identity where lead_id = $1 and kind = 'phone' and value = any($2::text[])`, [
    leadId,
    [phone, ...(read.ok ? [read.e164] : [])],
  ]);
  // Whoever gave it under another name has it now.
  if (read.ok)
    await tx.db.query(
      `with heir as (select business_id, kind, value from lead_identity where business_id = $1 and kind in ('number_asked', 'number_shared')
         and split_part(value, '|', 1) = $2 and lead_id <> $3 order by value limit 1)
       update lead_identity i set kind = 'phone', value = $2 from heir where i.business_id = heir.business_id and i.kind = heir.kind and i.value = heir.value`,
      [businessId, read.e164, leadId],
    );
  const how = `The number ${phone} is no longer theirs`;
  for (const channel of ['text', 'chat'])
    await tx.db.query(
      `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, $4, 'withdrawn', '', $5, $6)`,
      [uuidv7(), businessId, leadId, channel, how, at],
    );
  await closeQuestions(tx.db, leadId);
  await tx.db.query(
    'insert into lead_note (id, business_id, lead_id, text, at, author_id) values ($1, $2, $3, $4, $5, $6)',
    [uuidv7(), businessId, leadId, `${how}.`, at, personId],
  );
  await tx.db.query(
    `update needs_you set settled_at = $3, settled_by_id = $4 where business_id = $1 and lead_id = $2 and kind = 'number_shared' and settled_at is null`,
    [businessId, leadId, at, personId],
  );
  tx.note('lead.release_number', leadId, { number: phone });
  tx.ring();
}
