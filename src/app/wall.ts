import { Refusal } from './refusal.ts';
import type { Use } from './use.ts';

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/gi;

/** Whether what is sent, or the address of a page, names something across the wall. */
export async function leadsBeyond({ runtime, actor }: Use, sent: string): Promise<boolean> {
  const ids = [...new Set(sent.match(ID)?.map((id) => id.toLowerCase()))];
  if (ids.length === 0) return false;
  const { rows } = await runtime.pool.query(
    'select from elsewhere($1, $2::uuid[]) union all select from beyond($1, $2::uuid[], $3) limit 1',
    [actor.businessId, ids, actor.leadsOf],
  );
  return rows.length > 0;
}

/**
 * The wall between businesses, at the border: whatever is sent to us, in which form and however deep, names nothing of another business. Each
 * use case looks for what is its own business's all the same; this holds where one forgets. Of somebody who works with some leads only, it is the wall
 * around those, too.
 */
export async function keepWithin(use: Use, sent: string): Promise<void> {
  if (await leadsBeyond(use, sent))
    throw new Refusal(
      404,
      'not-here',
      'Something this names is not here. It may have been removed: load the page again.',
    );
}
