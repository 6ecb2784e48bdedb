import { readReference } from '../../core/template/field-reference.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { FieldDone } from './definition.ts';

const COLUMNS: Record<string, string> = {
  first_name: 'first_name',
  last_name: 'last_name',
  email: 'email',
  phone: 'phone',
};

export const setField: StepPerformer = {
  changesPeople: true,
  async record(client, what, { leadId }) {
    const done = what as FieldDone;
    const read = readReference(done.reference)!;
    const column = read.group === 'lead' ? COLUMNS[read.key] : undefined;
    if (column) await client.query(`update lead set ${column} = $2 where id = $1`, [leadId, done.value]);
    else
      await client.query(
        `update lead set ${read.group === 'own' ? 'own = own' : 'answers = answers'} || jsonb_build_object($2::text, $3::text) where id = $1`,
        [leadId, read.key, done.value],
      );
    return { detail: 'Written on the lead', results: [done] };
  },
};
