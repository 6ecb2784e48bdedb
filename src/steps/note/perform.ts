import type { StepPerformer } from '../step-performer.ts';
import type { NoteDone } from './definition.ts';

export const noteOnLead: StepPerformer = {
  async record(client, what, { businessId, leadId, runId, key, now }) {
    await client.query(
      'insert into lead_note (id, business_id, lead_id, text, at, run_id) values ($1, $2, $3, $4, $5, $6)',
      [key, businessId, leadId, (what as NoteDone).text, new Date(now), runId],
    );
    return { detail: 'Noted on the lead' };
  },
};
