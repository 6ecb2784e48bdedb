import { v7 as uuidv7 } from 'uuid';
import { audit, demand, type Use } from './actor.ts';

/** Makes a tag, or gives the one that has this name already. */
export async function createTag(use: Use, name: string): Promise<{ id: string }> {
  demand(use.actor, 'coordinator');
  const { rows } = await use.runtime.pool.query<{ id: string }>(
    `insert into tag (id, business_id, name, created_at) values ($1, $2, $3, now())
     on conflict (business_id, name) do update set name = excluded.name returning id`,
    [uuidv7(), use.actor.businessId, name],
  );
  use.runtime.directory.forget();
  audit(use.em, use.actor, 'tag.create', rows[0]!.id, { name });
  await use.em.flush();
  return { id: rows[0]!.id };
}
