import { readReference } from '../../core/template/field-reference.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { FieldDone } from './definition.ts';

const COLUMNS: Record<string, string> = {
  first_name: 'first_name',
  last_name: 'last_name',
  email: 'email',
  phone: 'phone',
};

export const setField: StepPerformer = {
  async record(client, what, { leadId, runId, stepId }) {
    const done = what as FieldDone;
    const read = readReference(done.reference)!;
    const column = read.group === 'lead' ? COLUMNS[read.key] : undefined;
    if (column && runId !== null) await changedBy(client, { kind: 'step', runId, stepId });
    if (column) await client.query(`update lead set ${column} = $2 where id = $1`, [leadId, done.value]);
    else
      await client.query(
        `update lead set ${read.group === 'own' ? 'own = own' : 'answers = answers'} || jsonb_build_object($2::text, $3::text) where id = $1`,
        [leadId, read.key, done.value],
      );
    return { detail: 'Written on the lead', results: [done] };
  },
};
