import type { Use } from '../use.ts';

/** Names of the workflows whose sheet, drafted or live, names one of these ids; by id. */
export async function workflowsNaming(use: Use, ids: readonly string[]): Promise<Map<string, string[]>> {
  if (ids.length === 0) return new Map();
  const { rows } = await use.db.query<{ id: string; names: string[] }>(
    `select x.id, array_agg(w.name order by w.name) as names from unnest($2::text[]) x(id)
     join workflow w on w.business_id = $1 and w.removed_at is null
     left join workflow_version v on v.id = w.live_version_id
     where strpos(w.draft::text, x.id) > 0 or strpos(coalesce(v.definition::text, ''), x.id) > 0 group by x.id`,
    [use.actor.businessId, ids],
  );
  return new Map(rows.map((row) => [row.id, row.names]));
}
