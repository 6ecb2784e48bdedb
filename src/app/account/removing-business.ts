import { z } from 'zod';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { BUSINESS_BACK_DAYS, ofMine } from './businesses.ts';
import { demandProof } from './proof.ts';

export const Removal = z.object({ name: z.string().max(200) });

/** What is asked by itself is put off for so long: by then the business is back, or gone. */
const PUT_OFF = `interval '${BUSINESS_BACK_DAYS + 1} days'`;

/**
 * Removes the whole business of whoever asks. For some days it can be put back; until then nothing goes out, nobody comes in, and what its sources bring is
 * kept unread. Whoever is still on their way in a workflow is sent nothing more. `name` is the business's own, typed by whoever means it.
 */
export async function removeBusiness(tx: Write, { name }: z.infer<typeof Removal>): Promise<void> {
  const { actor, db } = tx;
  demand(actor, 'keys');
  demandProof(tx);
  if (name.trim() !== actor.businessName.trim())
    throw new Refusal(422, 'name', `Type “${actor.businessName}” if this is the business you mean.`, { field: 'name' });
  const { rowCount } = await db.query('update business set removed_at = $2 where id = $1 and removed_at is null', [
    actor.businessId,
    new Date(tx.runtime.now()),
  ]);
  if (!rowCount) throw new Refusal(409, 'removed', 'A colleague has just removed it.');
  const quiet = [
    `update source set state = 'paused' where business_id = $1 and state = 'live'`,
    `update workflow set state = 'paused' where business_id = $1 and state = 'live'`,
    `update run set state = case when state = 'needs_you' then state else 'stopped' end, due_at = null, finished_at = now(), waits_for = null,
       outcome = 'Stopped: the business was removed' where business_id = $1 and (due_at is not null or state = 'active') and lease_by is null`,
    `update delivery set state = 'refused', due_at = null, detail = 'Not sent: the business was removed' where business_id = $1 and state = 'sending' and lease_by is null`,
    `update mailing set state = 'stopped' where business_id = $1 and state in ('planning', 'trying', 'sending')`,
    `update bulk_work set state = 'stopped' where business_id = $1 and state = 'running'`,
    `update lead_import i set state = 'stopped' from source s where s.id = i.source_id and s.business_id = $1 and i.state = 'running'`,
    `update cost_feed set next_at = next_at + ${PUT_OFF} where business_id = $1`,
    `update month_page set next_at = next_at + ${PUT_OFF} where business_id = $1`,
    `update invitation set withdrawn_at = now() where business_id = $1 and accepted_at is null and withdrawn_at is null`,
  ];
  for (const statement of quiet) await db.query(statement, [actor.businessId]);
  const { rowCount: atWork } = await db.query(
    `select from run where business_id = $1 and lease_by is not null union all select from delivery where business_id = $1 and state = 'sending' and lease_by is not null`,
    [actor.businessId],
  );
  if (atWork)
    throw new Refusal(409, 'at-work', 'Somebody is being answered this very moment. Try again in a few seconds.');
  tx.note('business.remove', actor.businessId, { name: actor.businessName });
  tx.forget();
  tx.ring();
}

export const BusinessBack = z.object({ key: z.string().max(40) });

/** Puts a removed business back, with everything in it. Its workflows and sources are paused: what goes on is looked at first. */
export async function putBusinessBack(tx: Write, { key }: z.infer<typeof BusinessBack>): Promise<void> {
  const found = await ofMine(tx, key);
  if (found.role !== 'owner')
    throw new Refusal(403, 'not-allowed', 'Only an owner of this business can put it back. Ask one of them.');
  const { rowCount } = await tx.db.query(
    `update business set removed_at = null where id = $1 and removed_at > $2::timestamptz - $3::int * interval '1 day'`,
    [found.id, new Date(tx.runtime.now()), BUSINESS_BACK_DAYS],
  );
  if (!rowCount)
    throw found.removed
      ? new Refusal(
          409,
          'too-late',
          `“${found.name}” was removed over ${BUSINESS_BACK_DAYS} days ago, and cannot be put back.`,
        )
      : new Refusal(409, 'back', `“${found.name}” is back already.`);
  for (const table of ['cost_feed', 'month_page'])
    await tx.db.query(`update ${table} set next_at = next_at - ${PUT_OFF} where business_id = $1`, [found.id]);
  tx.note('business.put_back', found.id, { name: found.name }, found.id);
  tx.forget();
}
