import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { ListDone } from './definition.ts';

const CAME = {
  joined: 'Put on the list',
  waiting: 'Asked to confirm',
  there: 'On the list already',
  left: 'Not put on: they have left this list',
} as const;

export const listOfLead: StepPerformer = {
  async record(client, what, { runId, join, leave }) {
    const { action, list, proven, fields } = what as ListDone;
    const reference = `list.${list}`;
    if (action === 'remove') {
      const was = await leave(client, list);
      return { detail: was ? 'Taken off' : 'Was not on it', results: [{ reference, value: '' }] };
    }
    const { rows } = await client.query<{ name: string }>(
      'select w.name from run r join workflow w on w.id = r.workflow_id where r.id = $1',
      [runId],
    );
    const how = rows[0] ? `By the workflow ${rows[0].name}` : 'Tried by hand';
    const came = await join(client, { listId: list, how, proven, fields });
    if (came === 'no-list') throw new RefusedWork('The list of this step is no longer there.');
    return { detail: CAME[came], results: [{ reference, value: came === 'joined' || came === 'there' ? 'yes' : '' }] };
  },
};
