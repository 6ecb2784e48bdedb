import { v7 as uuidv7 } from 'uuid';
import { demand } from '../actor.ts';
import type { Write } from '../use.ts';

/** Makes a tag, or gives the one that has this name already. */
export async function createTag(tx: Write, name: string): Promise<{ id: string }> {
  demand(tx.actor, 'do-work');
  const { rows } = await tx.db.query<{ id: string }>(
    `insert into tag (id, business_id, name, created_at) values ($1, $2, $3, now())
     on conflict (business_id, name) do update set name = excluded.name returning id`,
    [uuidv7(), tx.actor.businessId, name],
  );
  tx.forget();
  tx.note('tag.create', rows[0]!.id, { name });
  return { id: rows[0]!.id };
}
