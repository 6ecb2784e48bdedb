import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { ShadeRule, SheetColumn } from '../../core/sheets/column.ts';
import { type ISheet, type ISheetTab, Sheet, SheetTab } from '../../db/entities/sheet.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export const MOST_COLUMNS = 100;

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
  shading: ShadeRule[];
  revision: number;
}
export interface SheetView {
  id: string;
  name: string;
  tabs: TabView[];
}

export async function listSheets(use: Use): Promise<SheetListRow[]> {
  const { rows } = await use.db.query<{
    id: string;
    name: string;
    tabs: { id: string; name: string; rows: number }[] | null;
    changed: Date | null;
    used: string[] | null;
  }>(
    `select s.id, s.name,
       (select jsonb_agg(jsonb_build_object('id', t.id, 'name', t.name, 'rows', (select count(*) from sheet_row r where r.tab_id = t.id)) order by t.position) from sheet_tab t where t.sheet_id = s.id) as tabs,
       (select max(r.updated_at) from sheet_row r join sheet_tab t on t.id = r.tab_id where t.sheet_id = s.id) as changed,
       (select jsonb_agg(o.name order by o.name) from source o where o.business_id = s.business_id and o.removed_at is null and o.kind = 'sheet' and o.settings ->> 'sheetId' = s.id::text) as used
     from sheet s where s.business_id = $1 and s.removed_at is null order by s.name`,
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

export async function findTab(use: Use, id: string): Promise<ISheetTab> {
  const found = z.uuid().safeParse(id).success
    ? await use.em.findOne(SheetTab, { id, sheet: { business: use.actor.businessId, removedAt: null } })
    : null;
  if (!found) throw notHere('tab');
  return found;
}

export async function getSheet(use: Use, id: string): Promise<SheetView> {
  const sheet = await findSheet(use, id);
  const tabs = await use.em.find(SheetTab, { sheet: sheet.id }, { orderBy: { position: 'asc' } });
  return { id: sheet.id, name: sheet.name, tabs: tabs.map(tabView) };
}

const tabView = ({ id, name, columns, shading, revision }: ISheetTab): TabView => ({
  id,
  name,
  columns,
  shading,
  revision,
});

const SheetName = z.string().trim().min(1, 'Give the sheet a name').max(100);
export const RenameSheet = z.object({ name: SheetName });
const ColumnName = SheetColumn.shape.name;
export const NewSheet = RenameSheet.extend({
  /** Names of its columns; those of people where nothing is said. */
  columns: z
    .array(ColumnName)
    .min(1, 'A sheet needs at least one column')
    .max(MOST_COLUMNS)
    .default(['First name', 'Last name', 'Email', 'Phone', 'Notes']),
});

export async function createSheet(tx: Write, { columns, ...input }: z.infer<typeof NewSheet>): Promise<SheetView> {
  demand(tx.actor, 'build');
  const sheet = tx.em.create(Sheet, {
    id: uuidv7(),
    business: tx.actor.businessId,
    name: input.name,
    createdAt: new Date(),
  });
  tx.em.create(SheetTab, blankTab(sheet, input.name, 0, columns));
  tx.note('sheet.add', sheet.id, { name: input.name });
  tx.forget();
  await tx.em.flush();
  return getSheet(tx, sheet.id);
}

export const newColumn = (name: string): SheetColumn => ({
  id: `c${uuidv7().replaceAll('-', '').slice(-12)}`,
  name,
});
const blankTab = (sheet: ISheet, name: string, position: number, columns: string[]) => ({
  id: uuidv7(),
  sheet,
  name,
  position,
  columns: columns.map(newColumn),
  createdAt: new Date(),
});

export async function renameSheet(tx: Write, id: string, { name }: z.infer<typeof RenameSheet>): Promise<SheetView> {
  demand(tx.actor, 'build');
  const sheet = await findSheet(tx, id);
  tx.note('sheet.rename', id, { name, before: { name: sheet.name }, after: { name } });
  sheet.name = name;
  tx.forget();
  await tx.em.flush();
  return getSheet(tx, id);
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
  const sources = await use.db.query<{ name: string }>(
    `select name from source where business_id = $1 and removed_at is null and kind = 'sheet' and settings ->> $2 = $3 order by name`,
    [use.actor.businessId, key, value],
  );
  const workflows = await use.db.query<{ name: string }>(
    `select w.name from workflow w left join workflow_version v on v.id = w.live_version_id
     where w.business_id = $1 and w.removed_at is null and (w.draft::text like any($2) or (w.state <> 'draft' and v.definition::text like any($2))) order by w.name`,
    [use.actor.businessId, ids.map((id) => `%${id}%`)],
  );
  const said: string[] = [];
  if (sources.rows.length > 0) said.push(`${quoted(sources.rows.map((row) => row.name))} listens to it${without}.`);
  if (workflows.rows.length > 0)
    said.push(`The workflow ${quoted(workflows.rows.map((row) => row.name))} writes to it or looks into it.`);
  return said.join(' ');
}

const quoted = (names: string[]) => names.map((name) => `"${name}"`).join(', ');

/** Removes a sheet with all that is in it. Where sources listen to it, only when that is `agreed` to. */
export async function deleteSheet(tx: Write, id: string, agreed: boolean): Promise<void> {
  demand(tx.actor, 'build');
  const sheet = await findSheet(tx, id);
  const tabs = await tx.em.find(SheetTab, { sheet: id }, { fields: ['id'] });
  const missed = await missedBy(
    tx,
    { sheetId: id },
    ' and would get nothing more',
    tabs.map((tab) => tab.id),
  );
  if (missed && !agreed) throw new Refusal(409, 'listened-to', missed);
  sheet.removedAt = new Date(tx.runtime.now());
  tx.note('sheet.delete', id, { name: sheet.name });
  tx.forget();
}

export const NewTab = z.object({ name: z.string().trim().min(1, 'Give the tab a name').max(100) });

export async function addTab(tx: Write, sheetId: string, { name }: z.infer<typeof NewTab>): Promise<SheetView> {
  demand(tx.actor, 'build');
  const sheet = await findSheet(tx, sheetId);
  const count = await tx.em.count(SheetTab, { sheet: sheetId });
  tx.em.create(SheetTab, blankTab(sheet, name, count, ['Column A', 'Column B', 'Column C']));
  tx.note('sheet.add_tab', sheetId, { name });
  tx.forget();
  await tx.em.flush();
  return getSheet(tx, sheetId);
}

export const NewColumn = z.object({ name: ColumnName });

/** One more column behind the others. A name that is there already is refused: nobody could tell the two apart. */
export async function addColumn(tx: Write, id: string, { name }: z.infer<typeof NewColumn>): Promise<TabView> {
  demand(tx.actor, 'build');
  await findTab(tx, id);
  // Two colleagues who add one at once wait for each other, so that neither column is lost.
  await tx.db.query('select from sheet_tab where id = $1 for update', [id]);
  const tab = await tx.em.findOneOrFail(SheetTab, id, { refresh: true });
  if (tab.columns.length >= MOST_COLUMNS)
    throw new Refusal(409, 'too-many-columns', `A tab has ${MOST_COLUMNS} columns at most.`);
  if (tab.columns.some((column) => column.name.toLowerCase() === name.toLowerCase()))
    throw new Refusal(409, 'name-taken', `There is a column “${name}” already.`);
  tab.columns = [...tab.columns, newColumn(name)];
  tx.note('sheet.change_tab', id, { columns: tab.columns.map((column) => column.name) });
  tx.forget();
  await tx.em.flush();
  return tabView(tab);
}

export const ChangeTab = z.object({
  name: z.string().trim().min(1, 'Give the tab a name').max(100).optional(),
  /** The columns as they shall be: known ids keep their cells, an empty id is a new column. */
  columns: z.array(SheetColumn).min(1, 'A tab needs at least one column').max(MOST_COLUMNS).optional(),
  /** Rules that shade cells and rows, the first that fits counting. */
  shading: z.array(ShadeRule).max(50).optional(),
  /** Set when the person has agreed to take away a column that sources use. */
  agreed: z.boolean().default(false),
});

export async function changeTab(tx: Write, id: string, input: z.infer<typeof ChangeTab>): Promise<TabView> {
  demand(tx.actor, 'build');
  const tab = await findTab(tx, id);
  if (input.name !== undefined) tab.name = input.name;
  if (input.shading) tab.shading = input.shading;
  if (input.columns) {
    const wanted = input.columns.map((column) =>
      tab.columns.some((known) => known.id === column.id) ? column : { ...column, id: newColumn('').id },
    );
    const gone = tab.columns.filter((known) => !wanted.some((column) => column.id === known.id));
    const missed =
      gone.length > 0
        ? await missedBy(
            tx,
            { tabId: id },
            ` and ${quoted(gone.map((one) => one.name))} would be missing from what comes in`,
            gone.map((one) => one.id),
          )
        : '';
    if (missed && !input.agreed) throw new Refusal(409, 'listened-to', missed);
    tab.columns = wanted;
  }
  tx.note('sheet.change_tab', id, { columns: tab.columns.map((column) => column.name) });
  tx.forget();
  await tx.em.flush();
  return tabView(tab);
}

export async function deleteTab(tx: Write, id: string, agreed: boolean): Promise<void> {
  demand(tx.actor, 'build');
  const tab = await findTab(tx, id);
  if ((await tx.em.count(SheetTab, { sheet: tab.sheet.id })) === 1)
    throw new Refusal(409, 'last-tab', 'This is the only tab. Delete the whole sheet instead.');
  const missed = await missedBy(tx, { tabId: id }, ' and would get nothing more', [id]);
  if (missed && !agreed) throw new Refusal(409, 'listened-to', missed);
  tx.note('sheet.delete_tab', id, { name: tab.name });
  tx.forget();
  tx.em.remove(tab);
}
