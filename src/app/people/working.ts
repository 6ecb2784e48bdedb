import { z } from 'zod';
import { WorkingTime } from '../../core/people/working-time.ts';
import { Membership } from '../../db/entities/business.ts';
import { demand } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** Null for somebody who works always. */
export const WorkingInput = z.object({ working: WorkingTime.nullable() });

export async function getWorking(use: Use, personId = use.actor.personId): Promise<WorkingTime | null> {
  const found = await use.em.findOne(Membership, { business: use.actor.businessId, person: personId });
  if (!found) throw notHere('person');
  return found.working ?? null;
}

/** When somebody works: nobody is told outside of it, and turns pass on. One's own, or a colleague's by whoever manages. */
export async function changeWorking(
  tx: Write,
  { working }: z.infer<typeof WorkingInput>,
  personId = tx.actor.personId,
): Promise<void> {
  if (personId !== tx.actor.personId) demand(tx.actor, 'manage');
  const found = await tx.em.findOne(Membership, { business: tx.actor.businessId, person: personId });
  if (!found) throw notHere('person');
  found.working = working;
  tx.note('person.working', personId, { working });
  tx.forget();
}
