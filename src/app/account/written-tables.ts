import { z } from 'zod';
import { WrittenTable } from '../../core/outside/written-table.ts';
import { Connection, type IConnection } from '../../db/entities/connection.ts';
import { MOST_WRITTEN_BYTES } from '../../engine/services/rows-elsewhere.ts';
import { columnsOf } from '../../tables/put-rows.ts';
import { TableProblem } from '../../tables/table.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use } from '../use.ts';

/** Tables in files of a place that steps write rows to. */
export interface TablesView {
  tables: WrittenTable[];
  seen: string;
}
export const TablesInput = z.object({ tables: z.array(WrittenTable).max(20, 'Twenty tables are taken') });

const contentOf = ({ settings }: IConnection) => ({ tables: settings.tables ?? [] });
const viewOf = (connection: IConnection): TablesView => ({
  ...contentOf(connection),
  seen: seenAs(contentOf(connection)),
});

async function find(use: Use, id: string): Promise<IConnection> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  return found;
}

/** Null for a connection that is no place for files. */
export async function getTables(use: Use, id: string): Promise<TablesView | null> {
  const found = await find(use, id);
  return found.kind === 'file_place' ? viewOf(found) : null;
}

/** Sets which tables rows are written to; each file that is new among them is fetched once, so that what cannot be is told now. */
export async function changeTables(use: Use, id: string, input: z.infer<typeof TablesInput>): Promise<TablesView> {
  demand(use.actor, 'keys');
  const connection = await find(use, id);
  if (connection.kind !== 'file_place') throw new Refusal(422, 'kind', 'Rows are written to files elsewhere only.');
  if (new Set(input.tables.map(({ key }) => key)).size < input.tables.length)
    throw new Refusal(422, 'key', 'Two tables have the same name. Call one of them otherwise.');
  const { address, user = '', hostKey, authority, tables: before = [] } = connection.settings;
  const password = connection.secret ? use.runtime.secrets.open(connection.secret) : '';
  const known = new Set(before.map(({ path }) => path));
  for (const { label, path } of input.tables.filter(({ path }) => !known.has(path))) {
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
  return use.write(async (tx) => {
    await tx.db.query('select from connection where id = $1 for update', [id]);
    const now = await find(tx, id);
    refuseUnseen(tx, 'connection', contentOf(now));
    now.settings = { ...now.settings, tables: input.tables };
    tx.note('connection.tables', id, { name: now.name, tables: input.tables.map(({ label }) => label).join(', ') });
    tx.forget();
    return viewOf(now);
  });
}
