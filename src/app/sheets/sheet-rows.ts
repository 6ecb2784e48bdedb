import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { columnNames, findHeaderRow } from '../../core/sheets/header-row.ts';
import type { Db } from '../../db/db.ts';
import { Sheet } from '../../db/entities/sheet.ts';
import { TableProblem } from '../../tables/table.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { findTab, MOST_COLUMNS, newColumn } from './sheets.ts';

/** Rows a tab holds at most; beyond that a table belongs into an import. */
export const MOST_ROWS = 150_000;
const MOST_CELL = 20_000;

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
  demand(tx.actor, 'coordinator');
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

const filled = (cells: Record<string, string>) =>
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
async function lookSoon(tx: Write, tabId: string): Promise<void> {
  await tx.db.query(
    `update pull p set next_at = case when s.state = 'waiting' then now() + interval '3200 ms' else least(p.next_at, now() + interval '3200 ms') end from source s
     where s.id = p.source_id and s.kind = 'sheet' and s.business_id = $1 and s.settings ->> 'tabId' = $2 and (p.every_minutes = 0 or s.state = 'waiting')`,
    [tx.actor.businessId, tabId],
  );
}

/** The tab of a file that is meant. A workbook with several that can be seen asks which. */
async function tabOfFile(use: Use, file: { bytes: Uint8Array; tab: string | null }): Promise<string | null> {
  const tabs = await use.runtime.tables.tabs(file.bytes);
  if (file.tab !== null) {
    const chosen = tabs.find((one) => one.name === file.tab);
    if (!chosen) throw new Refusal(422, 'no-such-tab', `The file has no tab called “${file.tab}”.`);
    return chosen.name;
  }
  const seen = tabs.filter((one) => !one.hidden);
  if (seen.length > 1)
    throw new Refusal(409, 'which-tab', 'The workbook has several tabs. Which one shall be added?', {
      tabs: seen.map((one) => one.name),
    });
  return null;
}

/** Adds the rows of a CSV or XLSX file below those of a tab. Columns are told by their names; unknown ones are added. */
export async function importIntoTab(
  use: Use,
  tabId: string,
  file: { name: string; bytes: Uint8Array; tab: string | null },
): Promise<{ rows: number; columns: number }> {
  demand(use.actor, 'coordinator');
  await findTab(use, tabId);
  const found: string[][] = [];
  try {
    for await (const batch of use.runtime.tables.rows(file.bytes, await tabOfFile(use, file))) {
      for (const { cells } of batch) found.push(cells);
      if (found.length > MOST_ROWS)
        throw new TableProblem(
          'too-many-rows',
          `A tab holds ${MOST_ROWS.toLocaleString('en')} rows at most. Use an import for more.`,
        );
    }
  } catch (error) {
    if (error instanceof TableProblem) throw new Refusal(422, error.code, error.message);
    throw error;
  }
  if (found.length === 0) throw new Refusal(422, 'empty', 'There is nothing in the file.');
  const headerAt = findHeaderRow(found);
  const width = Math.min(MOST_COLUMNS, Math.max(...found.slice(0, 1000).map((row) => row.length)));
  const names = columnNames(headerAt === null ? null : found[headerAt]!, width);
  return use.write(async (tx) => {
    const tab = await findTab(tx, tabId);
    const empty = (await tx.db.query('select 1 from sheet_row where tab_id = $1 limit 1', [tabId])).rowCount === 0;
    const known = empty ? [] : tab.columns;
    const columns = names.map(
      (name) => known.find((column) => column.name.trim().toLowerCase() === name.toLowerCase()) ?? newColumn(name),
    );
    tab.columns = [...known, ...columns.filter((column) => !known.includes(column))].slice(0, MOST_COLUMNS);
    await tx.em.flush();
    const body = found.slice(headerAt === null ? 0 : headerAt + 1);
    await appendRows(
      tx,
      tabId,
      body.map((cells) =>
        Object.fromEntries(
          columns.flatMap((column, i) => (cells[i] ? [[column.id, cells[i].slice(0, MOST_CELL)]] : [])),
        ),
      ),
      file.name,
    );
    tx.note('sheet.add_rows', tabId, { rows: body.length });
    return { rows: body.length, columns: columns.length };
  });
}

/** Adds rows below all others, many at once; `file` names where they came from. */
export async function appendRows(
  tx: Write,
  tabId: string,
  rows: Record<string, string>[],
  file: string,
): Promise<void> {
  const tab = await tx.db.query<{ revision: number }>(
    'update sheet_tab set revision = revision + 1 where id = $1 returning revision',
    [tabId],
  );
  const size = await tx.db.query<{ n: number; last: number }>(
    'select count(*)::int as n, coalesce(max(position), 0) as last from sheet_row where tab_id = $1',
    [tabId],
  );
  if (size.rows[0]!.n + rows.length > MOST_ROWS)
    throw new Refusal(
      422,
      'too-many-rows',
      `A tab holds ${MOST_ROWS.toLocaleString('en')} rows at most. Use an import for more.`,
    );
  for (let from = 0; from < rows.length; from += 2000)
    await tx.db.query(
      `with made as (insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
         select (x.v ->> 'id')::uuid, $1, $2 + x.n, x.v -> 'cells', $3, now() from jsonb_array_elements($4::jsonb) with ordinality x(v, n) returning id)
       insert into sheet_row_change (tab_id, row_id, at, how, before, after, file, person_id) select $1, id, now(), 'file', '{}', '{}', $5, $6 from made`,
      [
        tabId,
        size.rows[0]!.last + from,
        tab.rows[0]!.revision,
        JSON.stringify(rows.slice(from, from + 2000).map((cells) => ({ id: uuidv7(), cells: filled(cells) }))),
        file,
        tx.actor.personId,
      ],
    );
  await lookSoon(tx, tabId);
}

/** A tab as rows of text, its column names first. */
export async function tabAsTable(use: Use, tabId: string): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  demand(use.actor, 'coordinator');
  const tab = await findTab(use, tabId);
  const sheet = await use.em.findOneOrFail(Sheet, { id: tab.sheet.id });
  await use.write(async (tx) => tx.note('sheet.export', tabId, { sheet: sheet.name }));
  async function* rows(): AsyncGenerator<string[][]> {
    yield [tab.columns.map((column) => column.name)];
    for (let after: string | null = null; ; ) {
      const page: RowPage = await tabRows(use, tabId, after, 2000);
      yield page.rows.map((row) => tab.columns.map((column) => row.cells[column.id] ?? ''));
      if (page.next === null) return;
      after = page.next;
    }
  }
  return { name: `${sheet.name} ${tab.name}`, rows: rows() };
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
  const nameOf = (id: string) => tab.columns.find((one) => one.id === id)?.name ?? 'a column that is gone';
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
