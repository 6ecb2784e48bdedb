import { z } from 'zod';
import { WorkingTime } from '../../core/people/working-time.ts';
import { Membership } from '../../db/entities/business.ts';
import { demand } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { lookAgain } from './telling.ts';

/** Null for somebody who works always. */
export const WorkingInput = z.object({ working: WorkingTime.nullable() });

export async function getWorking(use: Use, personId = use.actor.personId): Promise<WorkingTime | null> {
  const found = await use.em.findOne(Membership, { business: use.actor.businessId, person: personId });
  if (!found) throw notHere('person');
  return found.working ?? null;
}

/** Working hours as a note says them: by day, and the days off. */
const workingWords = (working: WorkingTime | null): Record<string, string> =>
  working === null
    ? { hours: 'always' }
    : {
        hours: working.week
          .map((day, i) =>
            day ? `${['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'][i]} ${day.from} to ${day.to}` : '',
          )
          .filter(Boolean)
          .join(', '),
        off: working.off.map(({ from, to }) => (from === to ? from : `${from} to ${to}`)).join(', '),
      };

/** When somebody works: nobody is told outside of it, and turns pass on. One's own, or a colleague's by whoever manages. */
export async function changeWorking(
  tx: Write,
  { working }: z.infer<typeof WorkingInput>,
  personId = tx.actor.personId,
): Promise<void> {
  if (personId !== tx.actor.personId) demand(tx.actor, 'manage');
  const found = await tx.em.findOne(Membership, { business: tx.actor.businessId, person: personId });
  if (!found) throw notHere('person');
  tx.note('person.working', personId, { before: workingWords(found.working ?? null), after: workingWords(working) });
  found.working = working;
  await lookAgain(tx, personId);
  tx.forget();
}
