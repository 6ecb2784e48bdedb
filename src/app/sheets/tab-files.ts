import { v7 as uuidv7 } from 'uuid';
import { columnNames, findHeaderRow } from '../../core/sheets/header-row.ts';
import { Sheet } from '../../db/entities/sheet.ts';
import { TableProblem } from '../../tables/table.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { filled, lookSoon, MOST_CELL, MOST_ROWS, type RowPage, tabRows } from './sheet-rows.ts';
import { findTab, MOST_COLUMNS, newColumn } from './sheets.ts';

/** The tab of a file that is meant. A workbook with several that can be seen asks which. */
async function tabOfFile(use: Use, file: { bytes: Uint8Array; tab: string | null }): Promise<string | null> {
  const tabs = await use.runtime.tables.tabs(file.bytes);
  if (file.tab !== null) {
    const chosen = tabs.find((tab) => tab.name === file.tab);
    if (!chosen) throw new Refusal(422, 'no-such-tab', `The file has no tab called “${file.tab}”.`);
    return chosen.name;
  }
  const seen = tabs.filter((tab) => !tab.hidden);
  if (seen.length > 1)
    throw new Refusal(409, 'which-tab', 'The workbook has several tabs. Which one shall be added?', {
      tabs: seen.map((tableTab) => tableTab.name),
    });
  return null;
}

/** Adds the rows of a CSV or XLSX file below those of a tab. Columns are told by their names; unknown ones are added. */
export async function importIntoTab(
  use: Use,
  tabId: string,
  file: { name: string; bytes: Uint8Array; tab: string | null },
): Promise<{ rows: number; columns: number }> {
  demand(use.actor, 'build');
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
  demand(use.actor, 'build');
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
