import { z } from 'zod';
import { matchingEmail, readEmail } from '../../core/message/email-address.ts';
import { readPhone } from '../../core/people/phone.ts';
import { LEAD_FIELD_LABELS } from '../../core/source/lead-card.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { lockLead } from '../../db/hot/lock-lead.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** One change of a person's name, address or number. */
export interface LeadChangeView {
  id: string;
  at: Date;
  field: keyof typeof LEAD_FIELD_LABELS;
  was: string;
  became: string;
  /** Who or what did it, in words. */
  by: string;
}

/** What was changed on a lead, newest first, 200 at most. */
export async function changesOf(use: Use, leadId: string): Promise<LeadChangeView[]> {
  const { rows } = await use.db.query(
    `select c.id, c.at, c.field, c.was, c.became, case c.by ->> 'kind'
         when 'person' then coalesce((select name from person p where p.id::text = c.by ->> 'id'), 'a colleague')
         when 'arrival' then 'what came in by ' || coalesce((select s.name from arrival a join source s on s.id = a.source_id where a.id::text = c.by ->> 'id'), 'a source')
         when 'step' then 'the workflow ' || coalesce((select w.name from run r join workflow w on w.id = r.workflow_id where r.id::text = c.by ->> 'runId'), 'that ran')
         when 'inbound' then 'what they wrote themselves'
         when 'chat' then 'the name they have in chat'
         else 'Pine Bell' end as by
     from lead_change c where c.lead_id = $1 and c.business_id = $2 order by c.at desc, c.id desc limit 200`,
    [leadId, use.actor.businessId],
  );
  const numberOf = (typed: string) => {
    const read = readPhone(typed, use.actor.country);
    return read.ok ? read.e164 : typed;
  };
  // The same number in its full form is no change of anything a person would put back.
  return (rows as LeadChangeView[]).filter(
    ({ field, was, became }) => field !== 'phone' || was === '' || numberOf(was) !== numberOf(became),
  );
}

const COLUMNS = { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' } as const;

/** Puts back what a field of a lead was before a change. What it is now stands on the time line as well, and can be put back in turn. */
export async function putBack(tx: Write, leadId: string, changeId: string): Promise<{ done: string }> {
  demand(tx.actor, 'do-work');
  if (![leadId, changeId].every((id) => z.uuid().safeParse(id).success)) throw notHere('change');
  const { businessId, country, personId } = tx.actor;
  await lockLead(tx.db, leadId);
  const { rows } = await tx.db.query<{ field: keyof typeof COLUMNS; was: string; now: string }>(
    `select c.field, c.was, to_jsonb(l) ->> c.field as now from lead_change c join lead l on l.id = c.lead_id
     where c.id = $1 and c.lead_id = $2 and c.business_id = $3`,
    [changeId, leadId, businessId],
  );
  const found = rows[0];
  if (!found) throw notHere('change');
  if (found.now === found.was) throw new Refusal(409, 'as-it-was', 'It is as it was already.');
  await changedBy(tx.db, { kind: 'person', id: personId });
  await tx.db.query(`update lead set ${COLUMNS[found.field]} = $2 where id = $1`, [leadId, found.was]);
  const email = found.field === 'email' ? readEmail(found.was) : null;
  const phone = found.field === 'phone' ? readPhone(found.was, country) : null;
  const identity = email?.ok ? ['email', matchingEmail(email.address)] : phone?.ok ? ['phone', phone.e164] : null;
  if (identity) {
    const { rows: held } = await tx.db.query<{ lead_id: string }>(
      `insert into lead_identity (business_id, kind, value, lead_id) values ($1, $2, $3, $4)
       on conflict (business_id, kind, value) do update set lead_id = lead_identity.lead_id returning lead_id`,
      [businessId, ...identity, leadId],
    );
    if (held[0]!.lead_id !== leadId)
      throw new Refusal(
        409,
        'taken',
        'Another lead is known by it now. Make one of the two first, or take it off the other.',
      );
  }
  tx.note('lead.put_back', leadId, found);
  tx.ring();
  return { done: `${LEAD_FIELD_LABELS[found.field]} is “${found.was}” again.` };
}
