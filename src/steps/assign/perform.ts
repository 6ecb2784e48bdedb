import type { StepPerformer } from '../step-performer.ts';
import type { AssignDone } from './definition.ts';

export const assignOwner: StepPerformer = {
  async record(client, what, { businessId, leadId, stepId, workflowId }) {
    const { among } = what as AssignDone;
    const { rows } = await client.query<{ person_id: string }>(
      'select person_id from membership where business_id = $1 and person_id = any($2::uuid[]) and (away_until is null or away_until <= now())',
      [businessId, among],
    );
    const here = among.filter((id) => rows.some((row) => row.person_id === id));
    // Everybody is away: the turn goes on as if nobody were, so that the lead has somebody.
    const list = here.length > 0 ? here : among;
    // The workflow's row is the counter: one assignment at a time, and each gets the next.
    const turn = await client.query<{ n: number }>(
      `update workflow set turns = turns || jsonb_build_object($2::text, coalesce((turns ->> $2)::int, 0) + 1) where id = $1
       returning (turns ->> $2)::int as n`,
      [workflowId, stepId],
    );
    const owner = list[((turn.rows[0]?.n ?? 1) - 1) % list.length]!;
    await client.query('update lead set owner_id = $2 where id = $1', [leadId, owner]);
    const { rows: named } = await client.query<{ name: string }>('select name from person where id = $1', [owner]);
    return { detail: `Owner: ${named[0]?.name ?? ''}`, results: [{ reference: 'owner.id', value: owner }] };
  },
};
