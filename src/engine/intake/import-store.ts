import { v5 as uuidv5 } from 'uuid';
import type { BulkAction } from '../../core/people/bulk-action.ts';
import { EVERYBODY, type LeadChoice } from '../../core/people/lead-choice.ts';
import { type Rules, samePersonDoes } from '../../core/workflow/rules.ts';
import type { Db } from '../../db/db.ts';
import type { TableRow } from '../../tables/table.ts';
import type { KnownSource } from '../settings-cache.ts';

interface ListWish {
  list_id: string | null;
  proven: boolean;
  started_by_id: string | null;
}

/** All are in: whoever came is put on the list by work of its own, begun once however often this is done. */
export async function putOnList(pool: Db, leased: ListWish, source: KnownSource): Promise<void> {
  if (leased.list_id === null) return;
  const action: BulkAction = { does: 'join', list: leased.list_id, proven: leased.proven };
  const choice: LeadChoice = { ...EVERYBODY, source: source.id };
  await pool.query(
    `insert into bulk_work (id, business_id, choice, action, state, total, due_at, started_by_id, created_at)
     select $1, $2, $3, $4, 'running', (select count(distinct lead_id) from arrival where source_id = $6), now(), $5, now() on conflict do nothing`,
    [
      uuidv5(leased.list_id, source.id),
      source.business.id,
      JSON.stringify(choice),
      JSON.stringify(action),
      leased.started_by_id,
      source.id,
    ],
  );
}

/** The workflow as it is live, as an arrival that is to run it names it; none when it is not live any more. */
export async function liveWorkflow(pool: Db, id: string) {
  const { rows } = await pool.query<{
    workflow_id: string;
    version_id: string;
    definition: { rules: Rules };
  }>(
    `select w.id as workflow_id, v.id as version_id, v.definition from workflow w join workflow_version v on v.id = w.live_version_id where w.id = $1 and w.state = 'live'`,
    [id],
  );
  return rows.map(({ definition, ...row }) => ({
    ...row,
    same_person: samePersonDoes(definition.rules.samePerson, false),
    again_after_days: definition.rules.againAfterDays,
    known_by: definition.rules.knownBy,
  }));
}

/** Rows of the file after one of them: every one, or those that are to be brought in. */
export async function importRows(
  pool: Db,
  sourceId: string,
  after: number,
  most: number,
  every: boolean,
  withDuplicates = false,
): Promise<TableRow[]> {
  const wanted = every ? '' : `and verdict = any('{good,known${withDuplicates ? ',duplicate' : ''}}'::text[])`;
  const { rows } = await pool.query<TableRow>(
    `select n, cells, trouble from import_row where source_id = $1 and n > $2 ${wanted} order by n limit $3`,
    [sourceId, after, most],
  );
  return rows;
}
