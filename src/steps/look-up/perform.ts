import { identitiesOf } from '../../core/people/identity.ts';
import { writeReference } from '../../core/template/field-reference.ts';
import type { Db } from '../../db/db.ts';
import { rowByKey } from '../../db/hot/row-keys.sql.ts';
import type { StepPerformer } from '../step-performer.ts';
import { DEAL_FOUND, LEAD_FOUND, type LookUpDone } from './definition.ts';

type Found = Record<string, string | null> | null;
type Asking = Db;

export const somethingLookedUp: StepPerformer = {
  async look(pool, what, { businessId }) {
    const asked = what as LookUpDone;
    const found =
      asked.value === ''
        ? null
        : asked.among === 'sheet'
          ? await row(pool, asked, businessId)
          : await person(pool, asked, businessId);
    const keys =
      asked.among === 'sheet' ? asked.columns : Object.keys(asked.among === 'leads' ? LEAD_FOUND : DEAL_FOUND);
    return {
      found: found !== null,
      detail: found ? 'Found' : 'Nothing found',
      results: keys.map((key) => ({
        reference: writeReference({ group: 'found', key: `${asked.prefix}.${key}` }),
        value: (found ?? asked.instead)[key] ?? '',
      })),
    };
  },
};

async function row(
  pool: Asking,
  { tab, column, value }: Extract<LookUpDone, { among: 'sheet' }>,
  businessId: string,
): Promise<Found> {
  const ours = await pool.query(
    'select from sheet_tab t join sheet s on s.id = t.sheet_id where t.id = $1 and s.business_id = $2 and s.removed_at is null',
    [tab, businessId],
  );
  if (!ours.rowCount) return null;
  const { rows } = await pool.query<{ cells: Record<string, string> }>('select cells from sheet_row where id = $1', [
    await rowByKey(pool, tab, column, value),
  ]);
  return rows[0]?.cells ?? null;
}

/** A lead by their email or phone, or the newest deal of that lead. */
async function person(
  pool: Asking,
  { among, value, country }: Extract<LookUpDone, { among: 'leads' | 'deals' }>,
  businessId: string,
): Promise<Found> {
  const ways = identitiesOf({ email: value, phone: value }, country);
  if (ways.length === 0) return null;
  const { rows } = await pool.query<Record<string, string | null>>(
    among === 'leads'
      ? `select l.first_name, l.last_name, l.email, l.phone, p.name as owner
         from lead_identity i join lead l on l.id = i.lead_id left join person p on p.id = l.owner_id
         where i.business_id = $1 and i.kind = any($2) and i.value = any($3) limit 1`
      : `select d.title, s.name as stage, d.value::text as value, p.name as owner
         from lead_identity i join deal d on d.lead_id = i.lead_id join stage s on s.id = d.stage_id
         join lead l on l.id = i.lead_id left join person p on p.id = l.owner_id
         where i.business_id = $1 and i.kind = any($2) and i.value = any($3) order by d.closed_at is not null, d.moved_at desc limit 1`,
    [businessId, ways.map((way) => way.kind), ways.map((way) => way.value)],
  );
  return rows[0] ?? null;
}
