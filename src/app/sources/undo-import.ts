import type { ImportView } from '../../sources/import/import-view.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { getImport, need } from './imports.ts';

/** What of a lead shows that somebody, or a workflow, has gone on with them. */
const TOUCHED = ['delivery', 'inbound', 'lead_note', 'task', 'calendar_entry', 'deal'] as const;

/**
 * Takes an import back: leads it made and that nothing else has touched are removed, its runs end, its consents and touches go.
 * People who were leads before stay, with what they were told meanwhile. Messages cannot be called back.
 */
export async function undoImport(tx: Write, sourceId: string): Promise<ImportView> {
  demand(tx.actor, 'build');
  const found = await need(tx, sourceId);
  if (!['stopped', 'done'].includes(found.state)) throw new Refusal(409, 'going', 'Stop the import first.');
  await tx.db.query(
    `update run set state = 'stopped', outcome = 'The import was undone', finished_at = now(), due_at = null, lease_by = null where source_id = $1 and state = 'active'`,
    [sourceId],
  );
  await tx.db.query(
    `create temporary table gone on commit drop as select distinct a.lead_id as id from arrival a join lead l on l.id = a.lead_id
     where a.source_id = $1 and l.created_at >= $2
       and not exists (select from arrival b join source s on s.id = b.source_id where b.lead_id = a.lead_id and b.source_id <> $1 and s.kind <> 'list')
       and not exists (select from lead_merge m where m.kept_id = a.lead_id)
       and ${TOUCHED.map((table) => `not exists (select from ${table} x where x.lead_id = a.lead_id)`).join(' and ')}`,
    [sourceId, found.startedAt],
  );
  await tx.db.query('delete from consent c using arrival a where a.id = c.arrival_id and a.source_id = $1', [sourceId]);
  await tx.db.query('delete from touch t using arrival a where a.id = t.arrival_id and a.source_id = $1', [sourceId]);
  // The list that was to take them in takes no more; who is not gone stays on it.
  await tx.db.query(
    `update bulk_work set state = 'stopped', finished_at = now() where state = 'running' and choice ->> 'source' = $1`,
    [sourceId],
  );
  for (const table of ['moment_result', 'step_result', 'turn_taken'])
    await tx.db.query(
      `delete from ${table} s using run r where r.id = s.run_id and r.lead_id in (select id from gone)`,
    );
  for (const table of ['needs_you', 'run', 'lead_tag', 'list_member'])
    await tx.db.query(`delete from ${table} where lead_id in (select id from gone)`);
  await tx.db.query(
    `update arrival set lead_id = null, state = 'aside', problem = 'The import was undone.' where lead_id in (select id from gone)`,
  );
  await tx.db.query('delete from lead_identity where lead_id in (select id from gone)');
  await tx.db.query('delete from lead where id in (select id from gone)');
  await tx.db.query(`update lead_import set state = 'undone', finished_at = now() where source_id = $1`, [sourceId]);
  tx.note('import.undo', sourceId);
  await tx.em.flush();
  tx.em.clear();
  tx.ring();
  return (await getImport(tx, sourceId))!;
}
