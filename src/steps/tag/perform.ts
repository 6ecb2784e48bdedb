import type { StepPerformer } from '../step-performer.ts';
import type { TagDone } from './definition.ts';

export const tagLead: StepPerformer = {
  async record(client, what, { leadId, runId, now }) {
    const { action, tag } = what as TagDone;
    if (action === 'remove') {
      await client.query('delete from lead_tag where lead_id = $1 and tag_id = $2', [leadId, tag]);
      return { detail: 'Taken off' };
    }
    // One at a time with a run that begins to wait for this tag: either it sees the tag, or this sees that it waits.
    await client.query('select pg_advisory_xact_lock(hashtextextended($1, 17))', [leadId]);
    const { rowCount } = await client.query(
      'insert into lead_tag (lead_id, tag_id, at, run_id) select $1, id, $3, $4 from tag where id = $2 on conflict do nothing',
      [leadId, tag, new Date(now), runId],
    );
    if (rowCount)
      await client.query(
        `update run set happened = '{"it":"yes"}', due_at = now() where lead_id = $1 and moment_id is not null and due_at is not null
           and lease_by is null and happened is null and waits_for ->> 'event' = 'tag' and waits_for ->> 'tag' = $2`,
        [leadId, tag],
      );
    return { detail: 'Tagged' };
  },
};
