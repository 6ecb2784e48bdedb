import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { AssignDone } from './definition.ts';

export const assignOwner: StepPerformer = {
  async record(client, what, { leadId }) {
    const { owner } = what as AssignDone;
    const { rows } = await client.query<{ name: string }>(
      'with given as (update lead set owner_id = $2 where id = $1) select name from person where id = $2',
      [leadId, owner || null],
    );
    if (!rows[0]) throw new RefusedWork('Nobody on the list is here any more.');
    return { detail: `Owner: ${rows[0].name}`, results: [{ reference: 'owner.id', value: owner }] };
  },
};
