import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { DealDone } from './definition.ts';
import { noteMove } from './note-move.ts';

export const dealInPipeline: StepPerformer = {
  async record(client, what, { businessId, leadId, runId, key, now, tell }) {
    const { stage, title, value } = what as DealDone;
    const { rows } = await client.query<{ pipeline_id: string; name: string; ends: string | null }>(
      'select s.pipeline_id, s.name, s.ends from stage s join pipeline p on p.id = s.pipeline_id where s.id = $1 and p.business_id = $2 and p.removed_at is null',
      [stage, businessId],
    );
    const to = rows[0];
    if (!to) throw new RefusedWork('The stage of this step is no longer there.');
    const at = new Date(now);
    // The unique index over open deals decides: two runs of one lead cannot open two. A closed row would not be seen by it, so
    // the deal is put down as open first.
    const moved = await client.query<{ id: string; fresh: boolean }>(
      `insert into deal (id, business_id, lead_id, pipeline_id, stage_id, title, value, run_id, created_at, moved_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $9)
       on conflict (lead_id, pipeline_id) where closed_at is null do update set stage_id = excluded.stage_id,
         value = coalesce(excluded.value, deal.value), run_id = excluded.run_id, moved_at = excluded.moved_at
       returning id, (xmax = 0) as fresh`,
      [key, businessId, leadId, to.pipeline_id, stage, title, value, runId, at],
    );
    if (to.ends !== null) await client.query('update deal set closed_at = $2 where id = $1', [moved.rows[0]!.id, at]);
    await noteMove(client, moved.rows[0]!.id, { runId });
    await tell(client, leadId, { event: 'stage', stage });
    return { detail: moved.rows[0]?.fresh ? `Opened in ${to.name}` : `Moved to ${to.name}` };
  },
};
