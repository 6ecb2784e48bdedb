import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { BulkAction, bulkWords } from '../../core/people/bulk-action.ts';
import { LeadChoice } from '../../core/people/lead-choice.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { choose } from './choosing.ts';

export interface BulkRow {
  id: string;
  /** What is done, in words. */
  words: string;
  state: 'running' | 'done' | 'stopped' | 'refused';
  problem: string;
  total: number;
  done: number;
  changed: number;
  by: string;
  createdAt: string;
  finishedAt: string | null;
}

export const StartBulk = z.object({
  choice: LeadChoice,
  action: BulkAction,
  /** The number of leads the person has seen and agreed to. */
  count: z.number().int().min(1, 'Nobody is chosen'),
});

/** Begins to do one thing with many leads. Only when the number that was agreed to is the number there is. */
export async function startBulk(tx: Write, { choice, action, count }: z.infer<typeof StartBulk>): Promise<BulkRow> {
  demand(tx.actor, action.does === 'erase' ? 'manage' : 'build');
  const { db } = tx;
  const { businessId, personId } = tx.actor;
  const catalogue = await catalogueFor(tx);
  const there =
    action.does === 'erase' ||
    (action.does === 'tag' || action.does === 'untag'
      ? catalogue.tags.some((tag) => tag.id === action.tag)
      : action.does === 'owner'
        ? action.person === null || catalogue.colleagues.some((colleague) => colleague.id === action.person)
        : catalogue.lists.some((list) => list.id === action.list));
  if (!there) throw new Refusal(422, 'gone', 'The tag, list or colleague chosen is no longer there. Choose again.');
  const n = await (await choose(tx, choice)).count();
  if (n !== count)
    throw new Refusal(
      409,
      'other-count',
      `There are ${n.toLocaleString('en')} now, not ${count.toLocaleString('en')}. Look again before you start.`,
    );
  const id = uuidv7();
  await db.query(
    `insert into bulk_work (id, business_id, choice, action, state, total, due_at, started_by_id, created_at) values ($1, $2, $3, $4, 'running', $5, now(), $6, now())`,
    [id, businessId, JSON.stringify(choice), JSON.stringify(action), n, personId],
  );
  tx.note(`bulk.${action.does}`, id, { ...action, choice, count });
  await tx.em.flush();
  return (await listBulk(tx)).find((bulkRow) => bulkRow.id === id)!;
}

/** What was done with many at once of late, newest first. */
export async function listBulk(use: Use): Promise<BulkRow[]> {
  const catalogue = await catalogueFor(use);
  const { rows } = await use.db.query(
    `select b.*, coalesce(p.name, '') as by from bulk_work b left join person p on p.id = b.started_by_id
     where b.business_id = $1 order by b.created_at desc limit 20`,
    [use.actor.businessId],
  );
  return rows.map((row) => ({
    id: row.id,
    words: bulkWords(row.action, catalogue),
    state: row.state,
    problem: row.problem,
    total: row.total,
    done: row.done,
    changed: row.changed,
    by: row.by,
    createdAt: row.created_at.toISOString(),
    finishedAt: row.finished_at?.toISOString() ?? null,
  }));
}

/** Stops it where it is; what has been done stays done. */
export async function stopBulk(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const { rowCount } = await tx.db.query(
    `update bulk_work set state = 'stopped', finished_at = now() where id = $1 and business_id = $2 and state = 'running'`,
    [id, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('work');
  tx.note('bulk.stop', id);
}
