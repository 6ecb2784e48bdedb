import { Refusal } from './refusal.ts';
import type { Use } from './use.ts';

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/gi;

/**
 * The wall between businesses, at the border: whatever is sent to us, in which form and however deep, names nothing of another business. Each
 * use case looks for what is its own business's all the same; this holds where one forgets.
 */
export async function keepWithin({ runtime, actor }: Use, sent: string): Promise<void> {
  const ids = [...new Set(sent.match(ID)?.map((id) => id.toLowerCase()))];
  if (ids.length === 0) return;
  const { rows } = await runtime.pool.query('select from elsewhere($1, $2::uuid[]) limit 1', [actor.businessId, ids]);
  if (rows.length > 0)
    throw new Refusal(
      404,
      'not-here',
      'Something this names is not here. It may have been removed: load the page again.',
    );
}
