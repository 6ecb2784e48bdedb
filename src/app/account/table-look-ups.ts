import { z } from 'zod';
import { TableLookUp } from '../../core/outside/table-look-up.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { changeListed, getListed, type ListView } from './connection-lists.ts';

/** What steps can ask of a database. */
export type LookUpsView = ListView<'lookUps'>;
export const LookUpsInput = z.object({ lookUps: z.array(TableLookUp).max(20, 'Twenty look-ups are taken') });

/** Null for a connection that is no database. */
export const getLookUps = (use: Use, id: string): Promise<LookUpsView | null> =>
  getListed(use, id, 'database', 'lookUps');

/** Sets what steps can ask; each is asked once, so that what cannot be is told now. */
export const changeLookUps = (use: Use, id: string, { lookUps }: z.infer<typeof LookUpsInput>): Promise<LookUpsView> =>
  changeListed(use, id, lookUps, {
    ...{ which: 'lookUps', kind: 'database' },
    otherwise: 'Only a database is asked in this way.',
    twice: 'Two look-ups have the same name. Call one of them otherwise.',
    noted: (tx, name, labels) => tx.note('connection.look_ups', id, { name, lookUps: labels }),
    async tried({ settings: { address, user = '', authority } }, password) {
      for (const lookUp of lookUps) {
        const tried = await use.runtime.outside.databases.find({ address, user, password, authority }, lookUp, '');
        if (!tried.ok) throw new Refusal(tried.refused ? 422 : 502, 'look-up', `${lookUp.label}: ${tried.problem}`);
      }
    },
  });
