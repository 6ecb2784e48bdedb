import { writeReference } from '../../core/template/field-reference.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { LookUpDone } from './definition.ts';

export const rowLookUp: StepPerformer = {
  async look(pool, what, { businessId }) {
    const { tab, column, value, prefix, columns } = what as LookUpDone;
    const { rows } = await pool.query<{ cells: Record<string, string> }>(
      `select r.cells from sheet_row r join sheet_tab t on t.id = r.tab_id join sheet s on s.id = t.sheet_id
       where r.tab_id = $1 and s.business_id = $2 and lower(trim(r.cells ->> $3)) = lower(trim($4)) order by r.position limit 1`,
      [tab, businessId, column, value],
    );
    const found = rows[0];
    return {
      found: found !== undefined,
      detail: found ? 'Found' : 'Nothing found',
      results: columns.map((id) => ({
        reference: writeReference({ group: 'found', key: `${prefix}.${id}` }),
        value: found?.cells[id] ?? '',
      })),
    };
  },
};
