import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { ListDone } from './definition.ts';

export const listOfLead: StepPerformer = {
  async record(client, what, { businessId, leadId, runId, now, tell }) {
    const { action, list } = what as ListDone;
    const at = new Date(now);
    if (action === 'remove') {
      await client.query(
        `update list_member set state = 'unsubscribed', changed_at = $3 where list_id = $1 and lead_id = $2 and state in ('active', 'waiting')`,
        [list, leadId, at],
      );
      return { detail: 'Taken off', results: [{ reference: `list.${list}`, value: '' }] };
    }
    const known = await client.query('select from nurture_list where id = $1 and business_id = $2', [list, businessId]);
    if (!known.rowCount) throw new RefusedWork('The list of this step is no longer there.');
    const { rows } = await client.query<{ how: string }>(
      `select w.name as how from run r join workflow w on w.id = r.workflow_id where r.id = $1`,
      [runId],
    );
    // Never a second membership, and never one for somebody who has left: they come back by their own wish only.
    const put = await client.query(
      `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at, run_id) values ($1, $2, 'active', $3, $4, $4, $5)
       on conflict (list_id, lead_id) do nothing`,
      [list, leadId, rows[0] ? `By the workflow ${rows[0].how}` : 'Tried by hand', at, runId],
    );
    if (put.rowCount) {
      await tell(client, leadId, { event: 'list', list });
      return { detail: 'Put on the list', results: [{ reference: `list.${list}`, value: 'yes' }] };
    }
    const there = await client.query<{ state: string }>(
      'select state from list_member where list_id = $1 and lead_id = $2',
      [list, leadId],
    );
    return there.rows[0]?.state === 'active'
      ? { detail: 'On the list already', results: [{ reference: `list.${list}`, value: 'yes' }] }
      : { detail: 'Not put on: they have left this list' };
  },
};
