import type { StepPerformer } from '../step-performer.ts';
import type { TaskDone } from './definition.ts';

export const callTask: StepPerformer = {
  async record(client, what, { businessId, leadId, runId, key, now }) {
    const { title, colleagueId, dueAt } = what as TaskDone;
    await client.query(
      'insert into task (id, business_id, lead_id, colleague_id, title, due_at, created_at, run_id) values ($1, $2, $3, $4, $5, $6, $7, $8)',
      [key, businessId, leadId, colleagueId, title, new Date(dueAt), new Date(now), runId],
    );
    return { detail: 'On the list of tasks' };
  },
};
