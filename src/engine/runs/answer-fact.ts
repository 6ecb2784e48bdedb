import type { FactAsked } from '../../core/condition/evaluate.ts';
import type { Db } from '../../db/db.ts';
import { isThrowAway } from '../../gateways/mail-domains.ts';

/** Answers a question that a condition asks and cannot answer by itself. */
export const answerFact = async (db: Db, businessId: string, asked: FactAsked): Promise<boolean> =>
  asked.kind === 'throw_away' ? isThrowAway(asked.domain) : inSheet(db, businessId, asked.column, asked.value);

/** Whether a column of a sheet ("tab/column") has this value in some row, without regard to case and outer spaces. */
async function inSheet(db: Db, businessId: string, column: string, value: string): Promise<boolean> {
  const [tab = '', id = ''] = column.split('/');
  if (!/^[0-9a-f-]{36}$/i.test(tab)) return false;
  const { rowCount } = await db.query(
    `select from sheet_row r join sheet_tab t on t.id = r.tab_id join sheet s on s.id = t.sheet_id
     where r.tab_id = $1 and s.business_id = $2 and s.removed_at is null and lower(trim(r.cells ->> $3)) = lower(trim($4)) limit 1`,
    [tab, businessId, id, value],
  );
  return rowCount === 1;
}
