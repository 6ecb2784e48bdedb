import type { TableLookUp } from '../../core/outside/table-look-up.ts';
import type { WrittenTable } from '../../core/outside/written-table.ts';
import { Connection, type ConnectionKind, type IConnection } from '../../db/entities/connection.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';

/** What is listed at a connection for steps to name, and set on its page. */
interface Lists {
  lookUps: TableLookUp[];
  tables: WrittenTable[];
}
type Which = keyof Lists;
export type ListView<W extends Which> = Pick<Lists, W> & { seen: string };

async function find(use: Use, id: string): Promise<IConnection> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  return found;
}

const contentOf = <W extends Which>({ settings }: IConnection, which: W) =>
  ({ [which]: settings[which] ?? [] }) as unknown as Pick<Lists, W>;
const viewOf = <W extends Which>(connection: IConnection, which: W): ListView<W> => ({
  ...contentOf(connection, which),
  seen: seenAs(contentOf(connection, which)),
});

/** Null for a connection of another kind. */
export async function getListed<W extends Which>(
  use: Use,
  id: string,
  kind: ConnectionKind,
  which: W,
): Promise<ListView<W> | null> {
  const found = await find(use, id);
  return found.kind === kind ? viewOf(found, which) : null;
}

/** Sets a list, once what is new in it has been tried. */
export async function changeListed<W extends Which>(
  use: Use,
  id: string,
  list: Lists[W],
  about: {
    which: W;
    kind: ConnectionKind;
    otherwise: string;
    twice: string;
    noted(tx: Write, name: string, labels: string): void;
    tried(connection: IConnection, secret: string): Promise<void>;
  },
): Promise<ListView<W>> {
  demand(use.actor, 'keys');
  const { which, kind, otherwise, twice, noted, tried } = about;
  const connection = await find(use, id);
  if (connection.kind !== kind) throw new Refusal(422, 'kind', otherwise);
  if (new Set(list.map(({ key }) => key)).size < list.length) throw new Refusal(422, 'key', twice);
  await tried(connection, connection.secret ? use.runtime.secrets.open(connection.secret) : '');
  return use.write(async (tx) => {
    await tx.db.query('select from connection where id = $1 for update', [id]);
    const now = await find(tx, id);
    refuseUnseen(tx, 'connection', contentOf(now, which));
    now.settings = { ...now.settings, [which]: list };
    noted(tx, now.name, list.map(({ label }) => label).join(', '));
    tx.forget();
    return viewOf(now, which);
  });
}
