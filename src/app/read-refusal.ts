import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Channel } from '../core/workflow/channel.ts';
import { lockLead } from '../db/hot/lock-lead.ts';
import { inTransaction } from '../db/in-transaction.ts';
import { closeQuestions } from '../engine/answer-question.ts';
import { leaveEmails } from '../engine/leave.ts';
import { endRuns } from '../engine/tell-of.ts';
import { audit, demand, notHere, Refusal, type Use } from './actor.ts';

export const RefusalRead = z.object({ means: z.enum(['no_more', 'something_else']) });

/** Somebody has read what sounded like a refusal, and says what it means. */
export async function readRefusal(
  use: Use,
  needId: string,
  means: z.infer<typeof RefusalRead>['means'],
): Promise<{ done: string }> {
  demand(use.actor, 'coordinator');
  if (!z.uuid().safeParse(needId).success) throw notHere('matter');
  const { pool, now, bell } = use.runtime;
  const { name, businessId, personId } = use.actor;
  const leadId = await inTransaction(pool, async (client) => {
    const { rows } = await client.query<{ lead_id: string; subject: string; settled_at: Date | null }>(
      `select lead_id, subject, settled_at from needs_you where id = $1 and business_id = $2 and kind = 'maybe_refusal' for update`,
      [needId, businessId],
    );
    const need = rows[0];
    if (!need) throw notHere('matter');
    if (need.settled_at) throw new Refusal(409, 'settled', 'Somebody has read it already.');
    const channel = need.subject.split(':')[1] as Channel;
    await lockLead(client, need.lead_id);
    const at = new Date(now());
    if (means === 'no_more') {
      const how = `Wrote so by ${channel}, read by ${name}`;
      if (channel === 'email') await leaveEmails(client, need.lead_id, how, at);
      else {
        await client.query(
          `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, $4, 'withdrawn', '', $5, $6)`,
          [uuidv7(), businessId, need.lead_id, channel, how, at],
        );
        await closeQuestions(client, need.lead_id);
        await endRuns(client, need.lead_id, ['stop'], null);
      }
    }
    await client.query('update needs_you set settled_at = $2, settled_by_id = $3 where id = $1', [
      needId,
      at,
      personId,
    ]);
    return need.lead_id;
  });
  audit(use.em, use.actor, 'lead.refusal_read', leadId, { means });
  await use.em.flush();
  bell.ring(businessId);
  return {
    done:
      means === 'no_more'
        ? 'They are written to no more this way.'
        : 'What goes out by itself goes to them again from now on. What was left out meanwhile stands in the log.',
  };
}
