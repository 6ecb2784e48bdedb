import { cameOf, type Happening, type WaitsFor } from '../../core/workflow/awaited.ts';
import type { Db } from '../../db/db.ts';
import { lockLead } from '../../db/hot/lock-lead.ts';

/**
 * Something has happened with a lead, in the transaction of `client`: runs that wait for it are due now. One at a time with a
 * run that begins to wait, so that exactly one of the two sees the other; a run that some process has in hand looks for itself
 * before it waits.
 */
export async function tellOf(client: Db, leadId: string, happening: Happening): Promise<void> {
  await lockLead(client, leadId);
  if (happening.event === 'tag') await endByTag(client, leadId, happening.tag);
  const { rows } = await client.query<{ id: string; waits_for: WaitsFor }>(
    `select id, waits_for from run where lead_id = $1 and moment_id is not null and due_at is not null and lease_by is null
       and happened is null and waits_for ->> 'event' = $2 order by id for update`,
    [leadId, happening.event],
  );
  for (const { id, waits_for } of rows) {
    const happened = cameOf(waits_for, id, happening);
    if (happened)
      await client.query('update run set due_at = now(), happened = $2 where id = $1', [id, JSON.stringify(happened)]);
  }
}

/** Runs whose rules end them when the lead gets this tag end here; one that some process has in hand looks for itself. */
async function endByTag(client: Db, leadId: string, tag: string): Promise<void> {
  const words = 'Ended early: they got a tag that ends it';
  await client.query(
    `with ended as (
       update run r set state = case when r.state = 'needs_you' then r.state else 'done' end, due_at = null, finished_at = now(), waits_for = null, outcome = $3
       from workflow_version v where v.id = r.version_id and r.lead_id = $1 and r.moment_id is not null and r.due_at is not null
         and r.lease_by is null and v.definition #> '{rules,endsTags}' ? $2 returning r.id)
     update delivery d set state = 'refused', detail = $3 from ended where d.run_id = ended.id and d.state = 'sending' and d.due_at is null`,
    [leadId, tag, words],
  );
}

/** Runs of a lead that end early by what they did end here, all but `except`; what they still had to send is not sent. */
export async function endRuns(
  client: Db,
  leadId: string,
  ends: readonly ('reply' | 'stop')[],
  except: string | null,
): Promise<void> {
  const words = ends.includes('stop') ? 'Ended early: they asked for no more' : 'Ended early: they replied';
  await client.query(
    `with ended as (
       update run r set state = case when r.state = 'needs_you' then r.state else 'done' end, due_at = null, finished_at = now(),
         waits_for = null, outcome = $3
       from workflow_version v where v.id = r.version_id and r.lead_id = $1 and r.moment_id is not null and r.due_at is not null
         and r.lease_by is null and v.definition #> '{rules,endsWhen}' ?| $2 and ($4::uuid is null or r.id <> $4) returning r.id)
     update delivery d set state = 'refused', detail = $3 from ended where d.run_id = ended.id and d.state = 'sending' and d.due_at is null`,
    [leadId, ends, words, except],
  );
}
