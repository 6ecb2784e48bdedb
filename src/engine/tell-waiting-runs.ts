import type pg from 'pg';
import { saysOneOf } from '../core/message/says-one-of.ts';
import type { WaitsFor } from '../db/entities/run.ts';

/**
 * A reply has come in, in the transaction of `client`, which holds the lead's lock: runs that end by it end, runs that wait
 * for it are due. A run that some process has in hand looks for itself before it waits or goes on.
 */
export async function tellWaitingRuns(
  client: pg.ClientBase,
  leadId: string,
  text: string,
  stops: boolean,
): Promise<void> {
  await client.query(
    `update run r set state = case when r.state = 'needs_you' then r.state else 'done' end, due_at = null, finished_at = now(), waits_for = null,
       outcome = case when $3 then 'Ended early: they asked for no more' else 'Ended early: they replied' end
     from workflow_version v where v.id = r.version_id and r.lead_id = $1 and r.moment_id is not null and r.due_at is not null
       and r.lease_by is null and v.definition #> '{rules,endsWhen}' ?| $2`,
    [leadId, stops ? ['reply', 'stop'] : ['reply'], stops],
  );
  const { rows } = await client.query<{ id: string; waits_for: WaitsFor }>(
    `select id, waits_for from run where lead_id = $1 and moment_id is not null and due_at is not null and lease_by is null
       and happened is null and waits_for ->> 'event' = 'reply' order by id for update`,
    [leadId],
  );
  const said = rows.filter((row) => saysOneOf(text, row.waits_for.words)).map((row) => row.id);
  if (said.length > 0)
    await client.query(
      `update run set due_at = now(), happened = jsonb_build_object('it', 'yes', 'text', $2::text) where id = any($1::uuid[]) and lease_by is null`,
      [said, text],
    );
}
