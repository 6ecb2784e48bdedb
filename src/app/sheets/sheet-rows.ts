import { z } from 'zod';
import type { Db } from '../../db/db.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { findTab } from './sheets.ts';

/** Rows a tab holds at most; beyond that a table belongs into an import. */
export const MOST_ROWS = 150_000;
export const MOST_CELL = 20_000;

/** A row as the grid has it: its id, and its cells by column id. */
export interface GridRow {
  id: string;
  cells: Record<string, string>;
}

/** Some of a tab's rows in their order. */
export interface RowPage {
  revision: number;
  rows: GridRow[];
  total: number;
  /** The row to go on behind; null when these were the last. */
  next: string | null;
}

/** Rows of a tab in their order, behind the row `after`. */
export async function tabRows(use: Use, id: string, after: string | null, most: number): Promise<RowPage> {
  const tab = await findTab(use, id);
  const { db } = use;
  const [{ rows }, counted] = await Promise.all([
    db.query<GridRow>(
      `select id, cells from sheet_row where tab_id = $1 and ($2::uuid is null or (position, id) > (select position, id from sheet_row where id = $2::uuid))
       order by position, id limit $3`,
      [id, after, most + 1],
    ),
    db.query<{ n: number }>('select count(*)::int as n from sheet_row where tab_id = $1', [id]),
  ]);
  const page = rows.slice(0, most);
  return {
    revision: tab.revision,
    rows: page,
    total: counted.rows[0]!.n,
    next: rows.length > most ? page.at(-1)!.id : null,
  };
}

const Cells = z.record(z.string().max(40), z.string().max(MOST_CELL, 'A cell holds 20,000 characters at most'));
export const EditRows = z.object({
  /** Changed cells of rows that are there; an empty text empties the cell. */
  change: z
    .array(z.object({ id: z.uuid(), cells: Cells }))
    .max(5000)
    .default([]),
  /** New rows, below the row named, or at the top. */
  insert: z
    .array(z.object({ id: z.uuid(), after: z.uuid().nullable(), cells: Cells }))
    .max(5000)
    .default([]),
  remove: z.array(z.uuid()).max(5000).default([]),
});

/** Writes edits of the grid in one transaction. Sent twice, it changes nothing the second time. */
export async function editRows(
  tx: Write,
  tabId: string,
  input: z.infer<typeof EditRows>,
): Promise<{ revision: number }> {
  demand(tx.actor, 'build');
  await findTab(tx, tabId);
  // Locks the tab: rows are committed in the order of their revisions, so that nobody who reads by revision misses one.
  const { rows } = await tx.db.query<{ revision: number }>(
    'update sheet_tab set revision = revision + 1 where id = $1 returning revision',
    [tabId],
  );
  const revision = rows[0]!.revision;
  if (input.remove.length > 0) {
    await tx.db.query(
      `insert into sheet_row_change (tab_id, row_id, at, how, before, after, person_id)
       select tab_id, id, now(), 'removed', cells, '{}', $3 from sheet_row where tab_id = $1 and id = any($2::uuid[])`,
      [tabId, input.remove, tx.actor.personId],
    );
    await tx.db.query('delete from sheet_row where tab_id = $1 and id = any($2::uuid[])', [tabId, input.remove]);
  }
  for (const row of input.insert) await insertRow(tx.db, tabId, revision, row, tx.actor.personId);
  if (input.change.length > 0) {
    await tx.db.query(
      `insert into sheet_row_change (tab_id, row_id, at, how, before, after, person_id)
       select $1, r.id, now(), 'typed', (select coalesce(jsonb_object_agg(k, coalesce(r.cells -> k, '""')), '{}') from jsonb_object_keys(e.cells) k), e.cells, $3
       from (select (x ->> 'id')::uuid as id, x -> 'cells' as cells from jsonb_array_elements($2::jsonb) x) e join sheet_row r on r.id = e.id and r.tab_id = $1`,
      [tabId, JSON.stringify(input.change), tx.actor.personId],
    );
    await tx.db.query(
      `update sheet_row r set cells = (select coalesce(jsonb_object_agg(key, value), '{}') from jsonb_each(r.cells || e.cells) where value <> '""'), revision = $2, updated_at = now()
       from (select (x ->> 'id')::uuid as id, x -> 'cells' as cells from jsonb_array_elements($3::jsonb) x) e where r.id = e.id and r.tab_id = $1`,
      [tabId, revision, JSON.stringify(input.change)],
    );
  }
  const count = await tx.db.query<{ n: number }>('select count(*)::int as n from sheet_row where tab_id = $1', [tabId]);
  if (count.rows[0]!.n > MOST_ROWS)
    throw new Refusal(
      422,
      'too-many-rows',
      `A tab holds ${MOST_ROWS.toLocaleString('en')} rows at most. Use an import for more.`,
    );
  await lookSoon(tx, tabId);
  return { revision };
}

export const filled = (cells: Record<string, string>) =>
  Object.fromEntries(Object.entries(cells).filter(([, value]) => value !== ''));

async function insertRow(
  client: Db,
  tabId: string,
  revision: number,
  row: { id: string; after: string | null; cells: Record<string, string> },
  personId: string,
): Promise<void> {
  await client.query(
    `with above as (select coalesce((select position from sheet_row where tab_id = $1 and id = $4), case when $4::uuid is null then 0 else (select coalesce(max(position), 0) from sheet_row where tab_id = $1) end) as p), made as (
     insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
     select $2, $1, coalesce((above.p + (select min(position) from sheet_row where tab_id = $1 and position > above.p)) / 2, above.p + 1), $5, $3, now() from above
     on conflict (id) do nothing returning id), noted as (
       insert into sheet_row_change (tab_id, row_id, at, how, before, after, person_id) select $1, id, now(), 'typed', '{}', $5, $6 from made)
     select 1`,
    [tabId, row.id, revision, row.after, JSON.stringify(filled(row.cells)), personId],
  );
}

/** Sources that listen to the tab at once look as soon as its rows have come to rest; those being set up, however often they look later. */
export async function lookSoon(tx: Write, tabId: string): Promise<void> {
  await tx.db.query(
    `update pull p set next_at = case when s.state = 'waiting' then now() + interval '3200 ms' else least(p.next_at, now() + interval '3200 ms') end from source s
     where s.id = p.source_id and s.kind = 'sheet' and s.business_id = $1 and s.settings ->> 'tabId' = $2 and (p.every_minutes = 0 or s.state = 'waiting')`,
    [tx.actor.businessId, tabId],
  );
}

export interface RowChange {
  at: string;
  /** Who or what wrote it: "Oona Pell", "The workflow Trial lesson". */
  by: string;
  how: 'typed' | 'file' | 'step' | 'removed';
  file: string;
  /** What changed, by the names of the columns as they are now. */
  cells: { column: string; before: string; after: string }[];
  run: { workflowId: string; id: string } | null;
  lead: { id: string; name: string } | null;
}

const CHANGES_SHOWN = 50;

/** Who or what wrote a row, newest first. */
export async function rowHistory(use: Use, tabId: string, rowId: string): Promise<RowChange[]> {
  const tab = await findTab(use, tabId);
  const { rows } = await use.db.query(
    `select c.at, c.how, c.before, c.after, c.file, c.run_id, r.workflow_id, w.name as workflow, p.name as person, c.lead_id,
       coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.email, '') as lead
     from sheet_row_change c left join run r on r.id = c.run_id left join workflow w on w.id = r.workflow_id
       left join person p on p.id = c.person_id left join lead l on l.id = c.lead_id
     where c.tab_id = $1 and c.row_id = $2 order by c.id desc limit $3`,
    [tabId, rowId, CHANGES_SHOWN],
  );
  const nameOf = (id: string) => tab.columns.find((column) => column.id === id)?.name ?? 'a column that is gone';
  return rows.map((row) => ({
    at: row.at.toISOString(),
    by: row.person ?? (row.workflow ? `The workflow ${row.workflow}` : 'A step tried by hand'),
    how: row.how,
    file: row.file,
    cells: [...new Set([...Object.keys(row.before), ...Object.keys(row.after)])]
      .map((id) => ({ column: nameOf(id), before: row.before[id] ?? '', after: row.after[id] ?? '' }))
      .filter((cell) => cell.before !== cell.after),
    run: row.run_id && row.workflow_id ? { workflowId: row.workflow_id, id: row.run_id } : null,
    lead: row.lead_id ? { id: row.lead_id, name: row.lead } : null,
  }));
}
