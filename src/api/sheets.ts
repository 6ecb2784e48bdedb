import { behind } from '../app/leads/choosing.ts';
import { EditRows, editRows, rowHistory, tabRows } from '../app/sheets/sheet-rows.ts';
import {
  addColumn,
  addTab,
  ChangeTab,
  changeTab,
  createSheet,
  deleteSheet,
  deleteTab,
  getSheet,
  listSheets,
  NewColumn,
  NewSheet,
  NewTab,
  RenameSheet,
  renameSheet,
} from '../app/sheets/sheets.ts';
import { importIntoTab, tabAsTable } from '../app/sheets/tab-files.ts';
import { MOST_FILE_BYTES } from '../tables/table.ts';
import { table } from './download.ts';
import { doors } from './route.ts';

/** Rows of one answer: little enough not to hold up the process. */
const AT_ONCE = 5000;

const { reads, takesFile, writes, writesAlone } = doors('see-setup', 'build');

export const sheetsRoutes = [
  reads('/sheets/:sheet', (use, { sheet }) => getSheet(use, sheet)),
  writes('PUT', '/sheets/:sheet', RenameSheet, (tx, input, { sheet }) => renameSheet(tx, sheet, input)),
  writesAlone('DELETE', '/sheets/:sheet', (tx, { sheet }, query) =>
    deleteSheet(tx, sheet, query.get('agreed') === '1'),
  ),
  writes('POST', '/sheets/:sheet/tabs', NewTab, (tx, input, { sheet }) => addTab(tx, sheet, input)),
  reads('/sheets', (use) => listSheets(use)),
  writes('POST', '/sheets', NewSheet, (tx, input) => createSheet(tx, input)),
  takesFile('/tabs/:tab/file', MOST_FILE_BYTES, (use, file, { tab }) => importIntoTab(use, tab, file)),
  reads('/tabs/:tab/file', async (use, { tab }, query) => table(use, query, await tabAsTable(use, tab)), 'build'),
  writes('PUT', '/tabs/:tab', ChangeTab, (tx, input, { tab }) => changeTab(tx, tab, input)),
  writesAlone('DELETE', '/tabs/:tab', (tx, { tab }, query) => deleteTab(tx, tab, query.get('agreed') === '1')),
  writes('POST', '/tabs/:tab/columns', NewColumn, (tx, input, { tab }) => addColumn(tx, tab, input)),
  reads('/tabs/:tab/rows', (use, { tab }, query) => tabRows(use, tab, behind(query.get('after')), AT_ONCE)),
  writes('POST', '/tabs/:tab/rows', EditRows, (tx, input, { tab }) => editRows(tx, tab, input)),
  reads('/tabs/:tab/rows/:row', (use, { tab, row }) => rowHistory(use, tab, row)),
] as const;
