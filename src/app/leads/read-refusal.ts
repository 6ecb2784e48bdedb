import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Channel } from '../../core/workflow/channel.ts';
import { lockLead } from '../../db/hot/lock-lead.ts';
import { closeQuestions } from '../../engine/inbound/answer-question.ts';
import { leaveEmails } from '../../engine/lists/leave.ts';
import { endRuns } from '../../engine/runs/tell-of.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';

export const RefusalRead = z.object({ means: z.enum(['no_more', 'something_else']) });

/** Somebody has read what sounded like a refusal, and says what it means. */
export async function readRefusal(
  tx: Write,
  needId: string,
  means: z.infer<typeof RefusalRead>['means'],
): Promise<{ done: string }> {
  demand(tx.actor, 'do-work');
  if (!z.uuid().safeParse(needId).success) throw notHere('matter');
  const { now } = tx.runtime;
  const { name, businessId, personId } = tx.actor;
  const { rows } = await tx.db.query<{ lead_id: string; subject: string; settled_at: Date | null }>(
    `select lead_id, subject, settled_at from needs_you where id = $1 and business_id = $2 and kind = 'maybe_refusal' for update`,
    [needId, businessId],
  );
  const need = rows[0];
  if (!need) throw notHere('matter');
  if (need.settled_at) throw new Refusal(409, 'settled', 'Somebody has read it already.');
  const channel = need.subject.split(':')[1] as Channel;
  await lockLead(tx.db, need.lead_id);
  const at = new Date(now());
  if (means === 'no_more') {
    const how = `Wrote so by ${channel}, read by ${name}`;
    if (channel === 'email') await leaveEmails(tx.db, need.lead_id, how, at);
    else {
      await tx.db.query(
        `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, $4, 'withdrawn', '', $5, $6)`,
        [uuidv7(), businessId, need.lead_id, channel, how, at],
      );
      await closeQuestions(tx.db, need.lead_id);
      await endRuns(tx.db, need.lead_id, ['stop'], null);
    }
  }
  await tx.db.query('update needs_you set settled_at = $2, settled_by_id = $3 where id = $1', [needId, at, personId]);
  tx.note('lead.refusal_read', need.lead_id, { means });
  tx.ring();
  return {
    done:
      means === 'no_more'
        ? 'They are written to no more this way.'
        : 'What goes out by itself goes to them again from now on. What was left out meanwhile stands in the log.',
  };
}
