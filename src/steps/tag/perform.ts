import type { StepPerformer } from '../step-performer.ts';
import type { TagDone } from './definition.ts';

export const tagLead: StepPerformer = {
  async record(client, what, { businessId, leadId, runId, now, tell }) {
    const { action, tag } = what as TagDone;
    if (action === 'remove') {
      await client.query('delete from lead_tag where lead_id = $1 and tag_id = $2', [leadId, tag]);
      return { detail: 'Taken off' };
    }
    const { rowCount } = await client.query(
      'insert into lead_tag (lead_id, tag_id, at, run_id) select $1, id, $3, $4 from tag where id = $2 and business_id = $5 and removed_at is null on conflict do nothing',
      [leadId, tag, new Date(now), runId, businessId],
    );
    if (rowCount) await tell(client, leadId, { event: 'tag', tag });
    return { detail: 'Tagged' };
  },
};
