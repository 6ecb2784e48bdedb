import { z } from 'zod';
import { EMAIL_PROBLEMS, matchingEmail, readEmail } from '../../core/message/email-address.ts';
import { PHONE_PROBLEMS, readPhone, storedPhone } from '../../core/people/phone.ts';
import { Lead } from '../../db/entities/lead.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';

/** Marks a task as done, or as not done after all. */
export async function settleTask(tx: Write, taskId: string, done: boolean): Promise<void> {
  demand(tx.actor, 'do-work');
  const { rowCount } = await tx.db.query(
    'update task set done_at = case when $3 then coalesce(done_at, now()) end where id = $1 and business_id = $2',
    [taskId, tx.actor.businessId, done],
  );
  if (rowCount === 0) throw notHere('task');
  tx.note(done ? 'task.done' : 'task.reopen', taskId);
}

export const LeadEdit = z.object({
  first_name: z.string().trim().max(200),
  last_name: z.string().trim().max(200),
  email: z.string().trim().max(254),
  phone: z.string().trim().max(60),
});

/** Puts a lead's own fields right. A new email or number also becomes a way to recognise them. */
export async function editLead(tx: Write, id: string, input: z.infer<typeof LeadEdit>): Promise<void> {
  demand(tx.actor, 'do-work');
  const email = input.email ? readEmail(input.email) : null;
  if (email && !email.ok) throw new Refusal(422, 'email', `This cannot be saved: ${EMAIL_PROBLEMS[email.problem]}.`);
  const phone = input.phone ? readPhone(input.phone, tx.actor.country) : null;
  if (phone && !phone.ok) throw new Refusal(422, 'phone', `This cannot be saved: ${PHONE_PROBLEMS[phone.problem]}.`);
  const lead = await tx.em.findOne(Lead, { id, business: tx.actor.businessId });
  if (!lead) throw notHere('lead');
  await changedBy(tx.db, { kind: 'person', id: tx.actor.personId });
  const before = { firstName: lead.firstName, lastName: lead.lastName, email: lead.email, phone: lead.phone };
  Object.assign(lead, {
    firstName: input.first_name,
    lastName: input.last_name,
    email: email?.ok ? email.address : '',
    phone: phone?.ok ? storedPhone(phone) : '',
  });
  const identities = [
    ...(email?.ok ? [['email', matchingEmail(email.address)]] : []),
    ...(phone?.ok ? [['phone', phone.e164]] : []),
  ];
  for (const [kind, value] of identities) {
    const { rows } = await tx.db.query<{ lead_id: string }>(
      `insert into lead_identity (business_id, kind, value, lead_id) values ($1, $2, $3, $4)
       on conflict (business_id, kind, value) do update set lead_id = lead_identity.lead_id returning lead_id`,
      [tx.actor.businessId, kind, value, id],
    );
    if (rows[0]!.lead_id !== id)
      throw new Refusal(
        409,
        'taken',
        `Another lead has this ${kind === 'email' ? 'email address' : 'phone number'} already.`,
      );
  }
  tx.note('lead.edit', id, { before });
  tx.ring();
}
