import type pg from 'pg';

/** Whether a column of a sheet ("tab/column") has this value in some row, without regard to case and outer spaces. */
export async function inSheet(pool: pg.Pool, businessId: string, column: string, value: string): Promise<boolean> {
  const [tab = '', id = ''] = column.split('/');
  if (!/^[0-9a-f-]{36}$/i.test(tab)) return false;
  const { rowCount } = await pool.query(
    `select from sheet_row r join sheet_tab t on t.id = r.tab_id join sheet s on s.id = t.sheet_id
     where r.tab_id = $1 and s.business_id = $2 and lower(trim(r.cells ->> $3)) = lower(trim($4)) limit 1`,
    [tab, businessId, id, value],
  );
  return rowCount === 1;
}
