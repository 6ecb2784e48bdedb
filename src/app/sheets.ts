import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { columnNames, findHeaderRow } from '../core/sheets/header-row.ts';
import { type ISheet, type ISheetTab, Sheet, type SheetColumn, SheetTab } from '../db/entities/sheet.ts';
import { TableProblem } from '../tables/table.ts';
import { audit, demand, notHere, Refusal, type Use } from './actor.ts';

/** Rows a tab holds at most; beyond that a table belongs into an import. */
export const MOST_ROWS = 50_000;
const MOST_COLUMNS = 100;
const MOST_CELL = 20_000;

export interface SheetListRow {
  id: string;
  name: string;
  tabs: { id: string; name: string; rows: number }[];
  usedBy: string[];
  changedAt: string | null;
}

export interface TabView {
  id: string;
  name: string;
  columns: SheetColumn[];
  revision: number;
}
export interface SheetView {
  id: string;
  name: string;
  tabs: TabView[];
}
/** A row as the grid has it: its id, and its cells by column id. */
export interface GridRow {
  id: string;
  cells: Record<string, string>;
}

export async function listSheets(use: Use): Promise<SheetListRow[]> {
  const { rows } = await use.runtime.pool.query<{
    id: string;
    name: string;
    tabs: { id: string; name: string; rows: number }[] | null;
    changed: Date | null;
    used: string[] | null;
  }>(
    `select s.id, s.name,
       (select jsonb_agg(jsonb_build_object('id', t.id, 'name', t.name, 'rows', (select count(*) from sheet_row r where r.tab_id = t.id)) order by t.position) from sheet_tab t where t.sheet_id = s.id) as tabs,
       (select max(r.updated_at) from sheet_row r join sheet_tab t on t.id = r.tab_id where t.sheet_id = s.id) as changed,
       (select jsonb_agg(o.name order by o.name) from source o where o.business_id = s.business_id and o.kind = 'sheet' and o.settings ->> 'sheetId' = s.id::text) as used
     from sheet s where s.business_id = $1 order by s.name`,
    [use.actor.businessId],
  );
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    tabs: row.tabs ?? [],
    usedBy: row.used ?? [],
    changedAt: row.changed?.toISOString() ?? null,
  }));
}

async function findSheet(use: Use, id: string): Promise<ISheet> {
  const found = z.uuid().safeParse(id).success
    ? await use.em.findOne(Sheet, { id, business: use.actor.businessId })
    : null;
  if (!found) throw notHere('sheet');
  return found;
}

async function findTab(use: Use, id: string): Promise<ISheetTab> {
  const found = z.uuid().safeParse(id).success
    ? await use.em.findOne(SheetTab, { id, sheet: { business: use.actor.businessId } })
    : null;
  if (!found) throw notHere('tab');
  return found;
}

export async function getSheet(use: Use, id: string): Promise<SheetView> {
  const sheet = await findSheet(use, id);
  const tabs = await use.em.find(SheetTab, { sheet: sheet.id }, { orderBy: { position: 'asc' } });
  return { id: sheet.id, name: sheet.name, tabs: tabs.map(tabView) };
}

const tabView = ({ id, name, columns, revision }: ISheetTab): TabView => ({ id, name, columns, revision });

export const NewSheet = z.object({ name: z.string().trim().min(1, 'Give the sheet a name').max(100) });

export async function createSheet(
  use: Use,
  input: z.infer<typeof NewSheet> & { columns?: string[] },
): Promise<SheetView> {
  demand(use.actor, 'coordinator');
  const { columns = ['First name', 'Last name', 'Email', 'Phone', 'Notes'] } = input;
  const sheet = use.em.create(Sheet, {
    id: uuidv7(),
    business: use.actor.businessId,
    name: input.name,
    createdAt: new Date(),
  });
  use.em.create(SheetTab, blankTab(sheet, 'Sheet 1', 0, columns));
  audit(use.em, use.actor, 'sheet.add', sheet.id, { name: input.name });
  await use.em.flush();
  return getSheet(use, sheet.id);
}

const newColumn = (name: string): SheetColumn => ({ id: `c${uuidv7().replaceAll('-', '').slice(-12)}`, name });
const blankTab = (sheet: ISheet, name: string, position: number, columns: string[]) => ({
  id: uuidv7(),
  sheet,
  name,
  position,
  columns: columns.map(newColumn),
  createdAt: new Date(),
});

export async function renameSheet(use: Use, id: string, { name }: z.infer<typeof NewSheet>): Promise<SheetView> {
  demand(use.actor, 'coordinator');
  const sheet = await findSheet(use, id);
  sheet.name = name;
  await use.em.flush();
  return getSheet(use, id);
}

/**
 * What would miss a sheet, a tab or some of its columns: sources that listen to it, workflows that write to it or look into
 * it. In sentences; empty when nothing would.
 */
async function missedBy(
  use: Use,
  place: { sheetId: string } | { tabId: string },
  without: string,
  ids: string[],
): Promise<string> {
  const [key, value] = Object.entries(place)[0]!;
  const sources = await use.runtime.pool.query<{ name: string }>(
    `select name from source where business_id = $1 and kind = 'sheet' and settings ->> $2 = $3 order by name`,
    [use.actor.businessId, key, value],
  );
  const workflows = await use.runtime.pool.query<{ name: string }>(
    `select w.name from workflow w left join workflow_version v on v.id = w.live_version_id
     where w.business_id = $1 and (w.draft::text like any($2) or (w.state <> 'draft' and v.definition::text like any($2))) order by w.name`,
    [use.actor.businessId, ids.map((id) => `%${id}%`)],
  );
  const said: string[] = [];
  if (sources.rows.length > 0) said.push(`${quoted(sources.rows.map((row) => row.name))} listens to it${without}.`);
  if (workflows.rows.length > 0)
    said.push(`The workflow ${quoted(workflows.rows.map((row) => row.name))} writes to it or looks into it.`);
  return said.join(' ');
}

const quoted = (names: string[]) => names.map((name) => `"${name}"`).join(', ');

/** Deletes a sheet with all that is in it. Where sources listen to it, only when that is `agreed` to. */
export async function deleteSheet(use: Use, id: string, agreed: boolean): Promise<void> {
  demand(use.actor, 'coordinator');
  const sheet = await findSheet(use, id);
  const tabs = await use.em.find(SheetTab, { sheet: id }, { fields: ['id'] });
  const missed = await missedBy(
    use,
    { sheetId: id },
    ' and would get nothing more',
    tabs.map((tab) => tab.id),
  );
  if (missed && !agreed) throw new Refusal(409, 'listened-to', missed);
  audit(use.em, use.actor, 'sheet.delete', id, { name: sheet.name });
  use.em.remove(sheet);
  await use.em.flush();
}

export const NewTab = z.object({ name: z.string().trim().min(1, 'Give the tab a name').max(100) });

export async function addTab(use: Use, sheetId: string, { name }: z.infer<typeof NewTab>): Promise<SheetView> {
  demand(use.actor, 'coordinator');
  const sheet = await findSheet(use, sheetId);
  const count = await use.em.count(SheetTab, { sheet: sheetId });
  use.em.create(SheetTab, blankTab(sheet, name, count, ['Column A', 'Column B', 'Column C']));
  await use.em.flush();
  return getSheet(use, sheetId);
}

export const ChangeTab = z.object({
  name: z.string().trim().min(1, 'Give the tab a name').max(100).optional(),
  /** The columns as they shall be: known ids keep their cells, an empty id is a new column. */
  columns: z
    .array(z.object({ id: z.string().max(40), name: z.string().trim().min(1, 'Every column needs a name').max(200) }))
    .min(1, 'A tab needs at least one column')
    .max(MOST_COLUMNS)
    .optional(),
  /** Set when the person has agreed to take away a column that sources use. */
  agreed: z.boolean().default(false),
});

export async function changeTab(use: Use, id: string, input: z.infer<typeof ChangeTab>): Promise<TabView> {
  demand(use.actor, 'coordinator');
  const tab = await findTab(use, id);
  if (input.name !== undefined) tab.name = input.name;
  if (input.columns) {
    const wanted = input.columns.map((column) =>
      tab.columns.some((known) => known.id === column.id) ? column : newColumn(column.name),
    );
    const gone = tab.columns.filter((known) => !wanted.some((column) => column.id === known.id));
    const missed =
      gone.length > 0
        ? await missedBy(
            use,
            { tabId: id },
            ` and ${quoted(gone.map((one) => one.name))} would be missing from what comes in`,
            gone.map((one) => one.id),
          )
        : '';
    if (missed && !input.agreed) throw new Refusal(409, 'listened-to', missed);
    tab.columns = wanted;
  }
  await use.em.flush();
  return tabView(tab);
}

export async function deleteTab(use: Use, id: string, agreed: boolean): Promise<void> {
  demand(use.actor, 'coordinator');
  const tab = await findTab(use, id);
  if ((await use.em.count(SheetTab, { sheet: tab.sheet.id })) === 1)
    throw new Refusal(409, 'last-tab', 'This is the only tab. Delete the whole sheet instead.');
  const missed = await missedBy(use, { tabId: id }, ' and would get nothing more', [id]);
  if (missed && !agreed) throw new Refusal(409, 'listened-to', missed);
  audit(use.em, use.actor, 'sheet.delete_tab', id, { name: tab.name });
  use.em.remove(tab);
  await use.em.flush();
}

/** All rows of a tab in their order. */
export async function tabRows(use: Use, id: string): Promise<{ revision: number; rows: GridRow[] }> {
  const tab = await findTab(use, id);
  const { rows } = await use.runtime.pool.query<GridRow>(
    'select id, cells from sheet_row where tab_id = $1 order by position, id',
    [id],
  );
  return { revision: tab.revision, rows };
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
  use: Use,
  tabId: string,
  input: z.infer<typeof EditRows>,
): Promise<{ revision: number }> {
  demand(use.actor, 'coordinator');
  await findTab(use, tabId);
  const client = await use.runtime.pool.connect();
  try {
    await client.query('begin');
    // Locks the tab: rows are committed in the order of their revisions, so that nobody who reads by revision misses one.
    const { rows } = await client.query<{ revision: number }>(
      'update sheet_tab set revision = revision + 1 where id = $1 returning revision',
      [tabId],
    );
    const revision = rows[0]!.revision;
    if (input.remove.length > 0)
      await client.query('delete from sheet_row where tab_id = $1 and id = any($2::uuid[])', [tabId, input.remove]);
    for (const row of input.insert) await insertRow(client, tabId, revision, row);
    if (input.change.length > 0)
      await client.query(
        `update sheet_row r set cells = (select coalesce(jsonb_object_agg(key, value), '{}') from jsonb_each(r.cells || e.cells) where value <> '""'), revision = $2, updated_at = now()
         from (select (x ->> 'id')::uuid as id, x -> 'cells' as cells from jsonb_array_elements($3::jsonb) x) e where r.id = e.id and r.tab_id = $1`,
        [tabId, revision, JSON.stringify(input.change)],
      );
    const count = await client.query<{ n: number }>('select count(*)::int as n from sheet_row where tab_id = $1', [
      tabId,
    ]);
    if (count.rows[0]!.n > MOST_ROWS)
      throw new Refusal(
        422,
        'too-many-rows',
        `A tab holds ${MOST_ROWS.toLocaleString('en')} rows at most. Use an import for more.`,
      );
    await client.query('commit');
    await lookSoon(use, tabId);
    return { revision };
  } catch (error) {
    await client.query('rollback').catch(() => {});
    throw error;
  } finally {
    client.release();
  }
}

interface Client {
  query(text: string, values: unknown[]): Promise<unknown>;
}

const filled = (cells: Record<string, string>) =>
  Object.fromEntries(Object.entries(cells).filter(([, value]) => value !== ''));

async function insertRow(
  client: Client,
  tabId: string,
  revision: number,
  row: { id: string; after: string | null; cells: Record<string, string> },
): Promise<void> {
  await client.query(
    `with above as (select coalesce((select position from sheet_row where tab_id = $1 and id = $4), case when $4::uuid is null then 0 else (select coalesce(max(position), 0) from sheet_row where tab_id = $1) end) as p)
     insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
     select $2, $1, coalesce((above.p + (select min(position) from sheet_row where tab_id = $1 and position > above.p)) / 2, above.p + 1), $5, $3, now() from above
     on conflict (id) do nothing`,
    [tabId, row.id, revision, row.after, JSON.stringify(filled(row.cells))],
  );
}

/** Sources that listen to the tab at once look as soon as its rows have come to rest. */
async function lookSoon(use: Use, tabId: string): Promise<void> {
  await use.runtime.pool.query(
    `update pull p set next_at = least(p.next_at, now() + interval '3200 ms') from source s
     where s.id = p.source_id and s.kind = 'sheet' and s.business_id = $1 and s.settings ->> 'tabId' = $2 and p.every_minutes = 0`,
    [use.actor.businessId, tabId],
  );
}

/** Adds the rows of a CSV or XLSX file below those of a tab. Columns are told by their names; unknown ones are added. */
export async function importIntoTab(
  use: Use,
  tabId: string,
  bytes: Uint8Array,
): Promise<{ rows: number; columns: number }> {
  demand(use.actor, 'coordinator');
  const tab = await findTab(use, tabId);
  const found: string[][] = [];
  try {
    for await (const batch of use.runtime.tables.rows(bytes, null)) {
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
  const empty =
    (await use.runtime.pool.query('select 1 from sheet_row where tab_id = $1 limit 1', [tabId])).rowCount === 0;
  const known = empty ? [] : tab.columns;
  const columns = names.map(
    (name) => known.find((column) => column.name.trim().toLowerCase() === name.toLowerCase()) ?? newColumn(name),
  );
  tab.columns = [...known, ...columns.filter((column) => !known.includes(column))].slice(0, MOST_COLUMNS);
  await use.em.flush();
  const body = found.slice(headerAt === null ? 0 : headerAt + 1);
  await appendRows(
    use,
    tabId,
    body.map((cells) =>
      Object.fromEntries(columns.flatMap((column, i) => (cells[i] ? [[column.id, cells[i].slice(0, MOST_CELL)]] : []))),
    ),
  );
  return { rows: body.length, columns: columns.length };
}

/** Adds rows below all others, many at once. */
export async function appendRows(use: Use, tabId: string, rows: Record<string, string>[]): Promise<void> {
  const client = await use.runtime.pool.connect();
  try {
    await client.query('begin');
    const tab = await client.query<{ revision: number }>(
      'update sheet_tab set revision = revision + 1 where id = $1 returning revision',
      [tabId],
    );
    const size = await client.query<{ n: number; last: number }>(
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
      await client.query(
        `insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
         select (x.v ->> 'id')::uuid, $1, $2 + x.n, x.v -> 'cells', $3, now() from jsonb_array_elements($4::jsonb) with ordinality x(v, n)`,
        [
          tabId,
          size.rows[0]!.last + from,
          tab.rows[0]!.revision,
          JSON.stringify(rows.slice(from, from + 2000).map((cells) => ({ id: uuidv7(), cells: filled(cells) }))),
        ],
      );
    await client.query('commit');
  } catch (error) {
    await client.query('rollback').catch(() => {});
    throw error;
  } finally {
    client.release();
  }
  await lookSoon(use, tabId);
}

/** A tab as rows of text, its column names first. */
export async function tabAsTable(use: Use, tabId: string): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  const tab = await findTab(use, tabId);
  const sheet = await use.em.findOneOrFail(Sheet, { id: tab.sheet.id });
  async function* rows(): AsyncGenerator<string[][]> {
    yield [tab.columns.map((column) => column.name)];
    const { rows } = await tabRows(use, tabId);
    for (let from = 0; from < rows.length; from += 2000)
      yield rows.slice(from, from + 2000).map((row) => tab.columns.map((column) => row.cells[column.id] ?? ''));
  }
  return { name: `${sheet.name} ${tab.name}`, rows: rows() };
}
