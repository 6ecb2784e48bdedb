import { z } from 'zod';
import { TableLookUp } from '../../core/outside/table-look-up.ts';
import { Connection, type IConnection } from '../../db/entities/connection.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use } from '../use.ts';

/** What steps can ask of a database. */
export interface LookUpsView {
  lookUps: TableLookUp[];
  seen: string;
}
export const LookUpsInput = z.object({ lookUps: z.array(TableLookUp).max(20, 'Twenty look-ups are taken') });

const contentOf = ({ settings }: IConnection) => ({ lookUps: settings.lookUps ?? [] });
const viewOf = (connection: IConnection): LookUpsView => ({
  ...contentOf(connection),
  seen: seenAs(contentOf(connection)),
});

async function find(use: Use, id: string): Promise<IConnection> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  return found;
}

/** Null for a connection that is no database. */
export async function getLookUps(use: Use, id: string): Promise<LookUpsView | null> {
  const found = await find(use, id);
  return found.kind === 'database' ? viewOf(found) : null;
}

/** Sets what steps can ask; each is asked once, so that what cannot be is told now. */
export async function changeLookUps(use: Use, id: string, input: z.infer<typeof LookUpsInput>): Promise<LookUpsView> {
  demand(use.actor, 'keys');
  const connection = await find(use, id);
  if (connection.kind !== 'database') throw new Refusal(422, 'kind', 'Only a database is asked in this way.');
  const { address, user = '', authority } = connection.settings;
  const password = connection.secret ? use.runtime.secrets.open(connection.secret) : '';
  if (new Set(input.lookUps.map(({ key }) => key)).size < input.lookUps.length)
    throw new Refusal(422, 'key', 'Two look-ups have the same name. Call one of them otherwise.');
  for (const lookUp of input.lookUps) {
    const tried = await use.runtime.outside.databases.find({ address, user, password, authority }, lookUp, '');
    if (!tried.ok) throw new Refusal(tried.refused ? 422 : 502, 'look-up', `${lookUp.label}: ${tried.problem}`);
  }
  return use.write(async (tx) => {
    await tx.db.query('select from connection where id = $1 for update', [id]);
    const now = await find(tx, id);
    refuseUnseen(tx, 'connection', contentOf(now));
    now.settings = { ...now.settings, lookUps: input.lookUps };
    tx.note('connection.look_ups', id, {
      name: now.name,
      lookUps: input.lookUps.map(({ label }) => label).join(', '),
    });
    tx.forget();
    return viewOf(now);
  });
}
