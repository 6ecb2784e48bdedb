import { z } from 'zod';
import { WrittenTable } from '../../core/outside/written-table.ts';
import { MOST_WRITTEN_BYTES } from '../../engine/services/rows-elsewhere.ts';
import { columnsOf } from '../../tables/put-rows.ts';
import { TableProblem } from '../../tables/table.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { changeListed, getListed, type ListView } from './connection-lists.ts';

/** Tables in files of a place that steps write rows to. */
export type TablesView = ListView<'tables'>;
export const TablesInput = z.object({ tables: z.array(WrittenTable).max(20, 'Twenty tables are taken') });

/** Null for a connection that is no place for files. */
export const getTables = (use: Use, id: string): Promise<TablesView | null> =>
  getListed(use, id, 'file_place', 'tables');

/** Sets which tables rows are written to; each file that is new among them is fetched once, so that what cannot be is told now. */
export const changeTables = (use: Use, id: string, { tables }: z.infer<typeof TablesInput>): Promise<TablesView> =>
  changeListed(use, id, tables, {
    ...{ which: 'tables', kind: 'file_place' },
    otherwise: 'Rows are written to files elsewhere only.',
    twice: 'Two tables have the same name. Call one of them otherwise.',
    noted: (tx, name, labels) => tx.note('connection.tables', id, { name, tables: labels }),
    async tried({ settings: { address, user = '', hostKey, authority, tables: before = [] } }, password) {
      const known = new Set(before.map(({ path }) => path));
      for (const { label, path } of tables.filter((one) => !known.has(one.path))) {
        const account = { address, user, password, hostKey, authority };
        const got = await use.runtime.outside.places.fetch(account, path, null, MOST_WRITTEN_BYTES);
        if (!got.ok && !got.missing) throw new Refusal(got.refused ? 422 : 502, 'table', `${label}: ${got.problem}`);
        try {
          if (got.ok) columnsOf(got.value.bytes!);
        } catch (error) {
          if (error instanceof TableProblem) throw new Refusal(422, 'table', `${label}: ${error.message}`);
          throw error;
        }
      }
    },
  });
