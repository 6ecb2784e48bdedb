import { v7 as uuidv7 } from 'uuid';
import { demand } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { refuseIfUsed } from '../workflows/removal.ts';
import { workflowsNaming } from '../workflows/used-by.ts';

/** Makes a tag, or gives the one that has this name already. */
export async function createTag(tx: Write, name: string): Promise<{ id: string }> {
  demand(tx.actor, 'do-work');
  const { rows } = await tx.db.query<{ id: string }>(
    `insert into tag (id, business_id, name, created_at) values ($1, $2, $3, now())
     on conflict (business_id, name) where removed_at is null do update set name = excluded.name returning id`,
    [uuidv7(), tx.actor.businessId, name],
  );
  tx.forget();
  tx.note('tag.create', rows[0]!.id, { name });
  return { id: rows[0]!.id };
}

export interface TagRow {
  id: string;
  name: string;
  folder: string;
  /** Leads that have it. */
  leads: number;
  usedBy: string[];
}

/** All tags, by name. */
export async function listTags(use: Use): Promise<TagRow[]> {
  const { rows } = await use.db.query<Omit<TagRow, 'usedBy'>>(
    `select g.id, g.name, g.folder, (select count(*)::int from lead_tag t where t.tag_id = g.id) as leads
     from tag g where g.business_id = $1 and g.removed_at is null order by lower(g.name), g.id limit 2000`,
    [use.actor.businessId],
  );
  const users = await workflowsNaming(
    use,
    rows.map(({ id }) => id),
  );
  return rows.map((row) => ({ ...row, usedBy: users.get(row.id) ?? [] }));
}

/** A tag nobody has any more. Put back, everybody who had it has it again. */
export async function removeTag(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const { rows } = await tx.db.query<{ name: string; segments: string[] }>(
    `select g.name, array(select s.name from segment s where s.business_id = $2 and s.removed_at is null and strpos(s.condition::text, g.id::text) > 0 order by s.name) as segments
     from tag g where g.id = $1 and g.business_id = $2 and g.removed_at is null for update`,
    [id, tx.actor.businessId],
  );
  const found = rows[0];
  if (!found) throw notHere('tag');
  const workflows = (await workflowsNaming(tx, [id])).get(id) ?? [];
  refuseIfUsed(found.name, [
    ...workflows.map((name) => `the workflow “${name}”`),
    ...found.segments.map((name) => `the segment “${name}”`),
  ]);
  await tx.db.query('update tag set removed_at = $2 where id = $1', [id, new Date(tx.runtime.now())]);
  tx.note('tag.remove', id, { name: found.name });
  tx.forget();
  tx.ring();
}
