import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { AssignDone } from './definition.ts';

export const assignOwner: StepPerformer = {
  async record(client, what, { businessId, leadId }) {
    const { owner } = what as AssignDone;
    const { rows } = await client.query<{ name: string }>(
      `with who as (select p.id, p.name from person p join membership m on m.person_id = p.id and m.business_id = $3 where p.id = $2),
         given as (update lead set owner_id = who.id from who where lead.id = $1)
       select name from who`,
      [leadId, owner || null, businessId],
    );
    if (!rows[0]) throw new RefusedWork('Nobody on the list is here any more.');
    return { detail: `Owner: ${rows[0].name}`, results: [{ reference: 'owner.id', value: owner }] };
  },
};
