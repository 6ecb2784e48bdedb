import { z } from 'zod';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** How long what was removed can be put back. */
export const REMOVED_DAYS = 30;

/** Each with the table it stands in. */
const TABLE = {
  workflow: 'workflow',
  source: 'source',
  list: 'nurture_list',
  connection: 'connection',
  sheet: 'sheet',
  email_template: 'email_template',
  chat_template: 'chat_template',
  chat_form: 'chat_form',
  segment: 'segment',
  pipeline: 'pipeline',
  tag: 'tag',
  canned_answer: 'canned_answer',
} as const;
export type RemovedKind = keyof typeof TABLE;
export const REMOVED_KINDS = Object.keys(TABLE) as [RemovedKind, ...RemovedKind[]];

export interface RemovedThing {
  kind: RemovedKind;
  id: string;
  name: string;
  removedAt: string;
  /** Who removed it; empty where that is not known. */
  by: string;
}

/** What the practice world took with it is made anew with it, and not put back. */
const REMOVED = `
  ${REMOVED_KINDS.filter((kind) => !['source', 'connection'].includes(kind))
    .map((kind) => `select '${kind}' as kind, id, name, removed_at from ${TABLE[kind]} where business_id = $1`)
    .join(' union all ')}
  union all select 'source', s.id, s.name, s.removed_at from source s where s.business_id = $1 and s.kind <> 'list'
    and not exists (select from connection c where c.practice and c.id::text = s.settings ->> 'connectionId')
  union all select 'connection', id, name, removed_at from connection where business_id = $1 and not practice`;

/** What has been removed and can be put back, the last first. */
export async function listRemoved({ db, actor }: Use): Promise<RemovedThing[]> {
  const { rows } = await db.query<Omit<RemovedThing, 'removedAt'> & { removed_at: Date }>(
    `select r.kind, r.id, r.name, r.removed_at, coalesce((select p.name from audit a join person p on p.id = a.person_id
       where a.business_id = $1 and a.subject = r.id::text and a.action in (r.kind || '.remove', r.kind || '.delete') order by a.at desc limit 1), '') as by
     from (${REMOVED}) r where r.removed_at > now() - $2::int * interval '1 day' order by r.removed_at desc, r.id limit 500`,
    [actor.businessId, REMOVED_DAYS],
  );
  return rows.map(({ removed_at, ...row }) => ({ ...row, removedAt: removed_at.toISOString() }));
}

export const PutBack = z.object({ kind: z.enum(REMOVED_KINDS) });

/**
 * Puts back what was removed, whole: a workflow with its versions and log, paused; a source with its address and card, paused; a list with everybody on it;
 * a connection with its key; a sheet with its rows, a tag with everybody who had it, a pipeline with its deals.
 */
export async function putBack(tx: Write, id: string, { kind }: z.infer<typeof PutBack>): Promise<void> {
  demand(tx.actor, kind === 'connection' ? 'keys' : kind === 'canned_answer' ? 'do-work' : 'build');
  const { rows } = await tx.db.query<{ name: string; late: boolean }>(
    `select r.name, r.removed_at < now() - $4::int * interval '1 day' as late from (${REMOVED}) r where r.kind = $3 and r.id = $2 and r.removed_at is not null`,
    [tx.actor.businessId, id, kind, REMOVED_DAYS],
  );
  const found = rows[0];
  if (!found) throw notHere(kind);
  if (found.late)
    throw new Refusal(
      409,
      'too-late',
      `“${found.name}” was removed over ${REMOVED_DAYS} days ago, and cannot be put back.`,
    );
  await tx.db.query(`update ${TABLE[kind]} set removed_at = null where id = $1 and business_id = $2`, [
    id,
    tx.actor.businessId,
  ]);
  if (kind === 'list')
    // What joining it begins listens again.
    await tx.db.query(
      `update source s set removed_at = null, state = 'live' from nurture_list l where l.id = $1 and s.id = l.source_id and s.business_id = $2`,
      [id, tx.actor.businessId],
    );
  tx.note(`${kind}.put_back`, id, { name: found.name });
  tx.forget();
  tx.ring();
}
