import { z } from 'zod';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { mergeLeads } from './lead-care.ts';
import { releaseNumber } from './release-number.ts';

/** `same`: one person under two names; `shared`: two people with one number; `moved`: the number has changed hands. */
export const WhoseNumber = z.object({ answer: z.enum(['same', 'shared', 'moved']) });

/** Says whose a number is that was given under two names. Until then the two stand as two leads and nothing of the first was changed. */
export async function sayWhoseNumber(
  tx: Write,
  needId: string,
  answer: z.infer<typeof WhoseNumber>['answer'],
): Promise<{ done: string }> {
  demand(tx.actor, 'do-work');
  if (!z.uuid().safeParse(needId).success) throw notHere('matter');
  const { rows } = await tx.db.query<{
    lead_id: string;
    other_lead_id: string | null;
    settled_at: Date | null;
    name: string;
    other: string;
  }>(
    `select n.lead_id, n.other_lead_id, n.settled_at, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.email, l.phone) as name,
       coalesce(nullif(trim(o.first_name || ' ' || o.last_name), ''), o.email, o.phone) as other
     from needs_you n join lead l on l.id = n.lead_id left join lead o on o.id = n.other_lead_id
     where n.id = $1 and n.business_id = $2 and n.kind = 'number_shared'`,
    [needId, tx.actor.businessId],
  );
  const need = rows[0];
  if (!need) throw notHere('matter');
  const { lead_id: holder, other_lead_id: other } = need;
  if (need.settled_at) throw new Refusal(409, 'settled', 'Somebody has said already whose this number is.');
  if (!other) throw new Refusal(409, 'one-only', 'The other of the two is no longer there.');
  if (answer === 'same') await mergeLeads(tx, holder, other);
  // The number goes from one to the other, and what was said about it on the first one's account ends.
  if (answer === 'moved') await releaseNumber(tx, holder);
  await tx.db.query(
    `update lead_identity set kind = 'number_shared' where kind = 'number_asked' and lead_id = any($1::uuid[])`,
    [[holder, other]],
  );
  await tx.db.query('update needs_you set settled_at = now(), settled_by_id = $2 where id = $1', [
    needId,
    tx.actor.personId,
  ]);
  tx.note('lead.whose_number', holder, { answer, other });
  tx.ring();
  const said = {
    same: `${need.name} and ${need.other} are one lead now. It can be undone on their page.`,
    shared: `${need.name} and ${need.other} share the number. What comes with it goes by the name it comes with.`,
    moved: `The number is ${need.other}’s now, and taken off ${need.name}.`,
  };
  return { done: said[answer] };
}
