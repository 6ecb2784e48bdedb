import { v5 as uuidv5 } from 'uuid';
import { RefusedWork } from '../../core/workflow/refused-work.ts';
import { rowByKey } from '../../db/hot/row-keys.sql.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { SheetRowDone } from './definition.ts';

export const rowInSheet: StepPerformer = {
  shared: (what) => (what as SheetRowDone).tab,
  async record(client, what, { businessId, leadId, runId, key: base }) {
    const { tab, key, whenThere, addIfNone, rows } = what as SheetRowDone;
    // Locks the tab: rows are committed in the order of their revisions, so that nobody who reads by revision misses one.
    const locked = await client.query<{ revision: number }>(
      `update sheet_tab t set revision = t.revision + 1 from sheet s where t.id = $1 and s.id = t.sheet_id and s.business_id = $2 and s.removed_at is null returning t.revision`,
      [tab, businessId],
    );
    const revision = locked.rows[0]?.revision;
    if (revision === undefined) throw new RefusedWork('The sheet of this step is no longer there.');
    const note = (row: string, before: object, after: object) =>
      client.query(
        `insert into sheet_row_change (tab_id, row_id, at, how, before, after, run_id, lead_id) values ($1, $2, now(), 'step', $3, $4, $5, (select id from lead where id = $6 and is_person))`,
        [tab, row, JSON.stringify(before), JSON.stringify(after), runId, leadId],
      );
    const count = { added: 0, updated: 0, skipped: 0, missing: 0 };
    for (const [i, cells] of rows.entries()) {
      const filled = Object.fromEntries(Object.entries(cells).filter(([, value]) => value !== ''));
      const there = key === '' || !cells[key] ? null : await rowByKey(client, tab, key, cells[key]);
      if (there && whenThere === 'skip') count.skipped += 1;
      else if (there && whenThere === 'update') {
        const { rows: was } = await client.query<{ before: Record<string, string> }>(
          `update sheet_row r set cells = r.cells || $2::jsonb, revision = $3, updated_at = now() from sheet_row b where r.id = $1 and b.id = r.id
           returning (select coalesce(jsonb_object_agg(k, coalesce(b.cells -> k, '""')), '{}') from jsonb_object_keys($2::jsonb) k) as before`,
          [there, JSON.stringify(filled), revision],
        );
        await note(there, was[0]?.before ?? {}, filled);
        count.updated += 1;
      } else if (!there && !addIfNone) count.missing += 1;
      else {
        await client.query(
          `insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
           select $2, $1, coalesce(max(position), 0) + 1, $3, $4, now() from sheet_row where tab_id = $1`,
          [tab, uuidv5(`row:${i}`, base), JSON.stringify(filled), revision],
        );
        await note(uuidv5(`row:${i}`, base), {}, filled);
        count.added += 1;
      }
    }
    const said = [
      count.added > 0 && `${count.added === 1 ? 'Row' : `${count.added} rows`} added`,
      count.updated > 0 && `${count.updated === 1 ? 'Row' : `${count.updated} rows`} updated`,
      count.skipped > 0 && `${count.skipped === 1 ? 'Row' : `${count.skipped} rows`} there already, left as it is`,
      count.missing > 0 && 'No row with this key, none added',
    ];
    return { detail: said.filter(Boolean).join(', ') };
  },
};
