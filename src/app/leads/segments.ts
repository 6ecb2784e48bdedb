import { LockMode } from '@mikro-orm/core';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { Condition, isBlank } from '../../core/condition/condition.ts';
import { conditionWords } from '../../core/condition/words.ts';
import { EVERYBODY } from '../../core/people/lead-choice.ts';
import { catalogueNames, memberLabels } from '../../core/workflow/step-kind.ts';
import { Segment } from '../../db/entities/nurture.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { workflowsNaming } from '../workflows/used-by.ts';
import { choose } from './choosing.ts';

export interface SegmentRow {
  id: string;
  name: string;
  condition: Condition;
  seen: string;
  /** The condition read aloud. */
  words: string;
  /** Null where it was not asked for: counting takes its time with very many leads. */
  /** Empty for none. */
  folder: string;
  people: number | null;
  usedBy: string[];
}

/** Every segment, counted as it is right now where that is wanted. */
export async function listSegments(use: Use, counted: boolean): Promise<SegmentRow[]> {
  const segments = await use.em.find(Segment, { business: use.actor.businessId }, { orderBy: { name: 'asc' } });
  const catalogue = await catalogueFor(use);
  const users = await workflowsNaming(
    use,
    segments.map((segment) => segment.id),
  );
  return Promise.all(
    segments.map(async ({ id, name, folder, condition }) => ({
      id,
      name,
      folder,
      condition,
      seen: seenAs({ name, condition }),
      words: conditionWords(condition, catalogueNames(catalogue, memberLabels(catalogue.lists))),
      people: counted ? await (await choose(use, { ...EVERYBODY, segment: id })).count() : null,
      usedBy: users.get(id) ?? [],
    })),
  );
}

export const SegmentInput = z.object({
  name: z.string().trim().min(1, 'Give the segment a name').max(60),
  condition: Condition.refine((condition) => !isBlank(condition), 'Ask at least one question'),
});

async function nameFree(use: Use, name: string, except: string | null): Promise<void> {
  const there = await use.em.findOne(Segment, { business: use.actor.businessId, name });
  if (there && there.id !== except)
    throw new Refusal(422, 'name-taken', `There is a segment called "${name}" already. Choose another name.`);
}

export async function createSegment(tx: Write, input: z.infer<typeof SegmentInput>): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  await nameFree(tx, input.name, null);
  const made = tx.em.create(Segment, {
    id: uuidv7(),
    business: tx.actor.businessId,
    ...input,
    createdAt: new Date(),
  });
  tx.note('segment.create', made.id, { name: input.name });
  tx.forget();
  return { id: made.id };
}

export async function changeSegment(
  tx: Write,
  id: string,
  input: z.infer<typeof SegmentInput>,
): Promise<{ seen: string }> {
  demand(tx.actor, 'build');
  const segment = await tx.em.findOne(
    Segment,
    { id, business: tx.actor.businessId },
    { lockMode: LockMode.PESSIMISTIC_WRITE },
  );
  if (!segment) throw notHere('segment');
  refuseUnseen(tx, 'segment', { name: segment.name, condition: segment.condition });
  await nameFree(tx, input.name, id);
  const catalogue = await catalogueFor(tx);
  const said = ({ name, condition }: Pick<z.infer<typeof SegmentInput>, 'name' | 'condition'>) => ({
    name,
    who: conditionWords(condition, catalogueNames(catalogue, memberLabels(catalogue.lists))),
  });
  tx.note('segment.change', id, { before: said(segment), after: said(input) });
  Object.assign(segment, input);
  tx.forget();
  return { seen: seenAs({ name: segment.name, condition: segment.condition }) };
}

/** Removes a segment; refused while a workflow, an email to many or work on many leads still goes by it. */
export async function removeSegment(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const segment = await tx.em.findOne(Segment, { id, business: tx.actor.businessId });
  if (!segment) throw notHere('segment');
  const users = (await workflowsNaming(tx, [id])).get(id) ?? [];
  const { rows } = await tx.db.query<{ what: string }>(
    `select 'a one-off email' as what from mailing where business_id = $1 and audience ->> 'segment' = $2 and state in ('planning', 'trying')
     union all select 'work on many leads' from bulk_work where business_id = $1 and choice ->> 'segment' = $2 and state = 'running'`,
    [tx.actor.businessId, id],
  );
  const by = [...users.map((name) => `the workflow “${name}”`), ...rows.map((row) => row.what)];
  if (by.length > 0)
    throw new Refusal(409, 'in-use', `${segment.name} is still used by ${by.join(' and ')}. Take it out there first.`);
  tx.note('segment.remove', id, { name: segment.name });
  segment.removedAt = new Date(tx.runtime.now());
  tx.forget();
}
