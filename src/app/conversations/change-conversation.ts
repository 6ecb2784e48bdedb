import { z } from 'zod';
import { freeRuns, holdRuns } from '../../engine/inbound/conversation.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { findConversation } from './find-conversation.ts';

export const ConversationChange = z.object({
  assigneeId: z.uuid().nullable().optional(),
  done: z.boolean().optional(),
  /** True to take over, false to hand back. */
  taken: z.boolean().optional(),
  typing: z.boolean().optional(),
  unread: z.literal(true).optional(),
});

const TYPING_MS = 6000;

/** Who is to answer, taken over or handed back, done, or unread again. Gives how many workflows were held or go on. */
export async function changeConversation(
  tx: Write,
  id: string,
  input: z.infer<typeof ConversationChange>,
): Promise<{ runs: number }> {
  demand(tx.actor, 'do-work');
  const row = await findConversation(tx, id);
  const { personId, businessId } = tx.actor;
  const at = new Date(tx.runtime.now());
  const set = (sql: string, ...values: unknown[]) =>
    tx.db.query(`update conversation set ${sql} where id = $1`, [id, ...values]);
  if (input.assigneeId !== undefined) {
    const { rowCount } = await tx.db.query(
      'select from membership where business_id = $1 and ($2::uuid is null or person_id = $2)',
      [businessId, input.assigneeId],
    );
    if (!rowCount) throw notHere('colleague');
    await set('assignee_id = $2', input.assigneeId);
  }
  if (input.done !== undefined) await set('done_at = $2', input.done ? at : null);
  if (input.unread) await set('unread = greatest(unread, 1)');
  if (input.typing !== undefined)
    await set(
      'typing_by_id = $2, typing_until = $3',
      input.typing ? personId : null,
      input.typing ? new Date(at.getTime() + TYPING_MS) : null,
    );
  const runs =
    input.taken === undefined || !row.lead_id
      ? 0
      : await takeOver(tx, row, { taken: input.taken, leadId: row.lead_id, at });
  if (input.taken !== undefined || input.done !== undefined || input.assigneeId !== undefined)
    tx.note('conversation.change', id, input);
  tx.ring();
  return { runs };
}

/** Takes a conversation over, or gives it back; gives how many runs are held by it, or free again. */
async function takeOver(
  tx: Write,
  row: Awaited<ReturnType<typeof findConversation>>,
  { taken, leadId, at }: { taken: boolean; leadId: string; at: Date },
): Promise<number> {
  if (taken) {
    const { rowCount } = await tx.db.query(
      'update conversation set taken_by_id = $2, taken_at = $3, assignee_id = coalesce(assignee_id, $2) where id = $1 and (taken_by_id is null or taken_by_id = $2)',
      [row.id, tx.actor.personId, at],
    );
    if (!rowCount) throw new Refusal(409, 'taken', `${row.taken_by} has taken over already. Ask them first.`);
    return holdRuns(tx.db, leadId, at);
  }
  await tx.db.query('update conversation set taken_by_id = null, taken_at = null where id = $1', [row.id]);
  return freeRuns(tx.db, leadId);
}
