import type { StepPerformer } from '../step-performer.ts';
import type { MailingDone } from './definition.ts';

/** Puts the email down; its messages are made and sent apart from the run, behind everything that is for one person. */
export const emailToMany: StepPerformer = {
  async record(client, what, { businessId, runId, stepId, key, now }) {
    const { audience, email } = what as MailingDone;
    await client.query(
      `insert into mailing (id, business_id, audience, email, state, planned_at, created_at, run_id, step_id)
       values ($1, $2, $3, $4, 'planning', $5, $5, $6, $7)`,
      [key, businessId, JSON.stringify(audience), JSON.stringify(email), new Date(now), runId, stepId],
    );
    return { detail: 'On its way, one after the other' };
  },
};
