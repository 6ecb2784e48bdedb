import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { currencyOf } from '../../core/words/money.ts';
import { Pipeline, Stage } from '../../db/entities/record.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { refuseIfUsed } from '../workflows/removal.ts';
import { workflowsNaming } from '../workflows/used-by.ts';

interface NewStage {
  name: string;
  ends: 'won' | 'lost' | null;
}

/** Stages a new pipeline begins with. Common practice, no source. */
const USUAL: NewStage[] = [
  { name: 'New enquiry', ends: null },
  { name: 'In talks', ends: null },
  { name: 'Offer made', ends: null },
  { name: 'Won', ends: 'won' },
  { name: 'Lost', ends: 'lost' },
];

export async function createPipeline(
  tx: Write,
  input: { name: string; stages?: NewStage[] | undefined; currency?: string | undefined },
): Promise<{ id: string; stages: { id: string; name: string }[] }> {
  demand(tx.actor, 'build');
  const pipeline = tx.em.create(Pipeline, {
    id: uuidv7(),
    business: tx.actor.businessId,
    name: input.name,
    currency: input.currency ?? currencyOf(tx.actor.country),
    createdAt: new Date(),
  });
  const stages = (input.stages ?? USUAL).map((stage, position) =>
    tx.em.create(Stage, { id: uuidv7(), pipeline, position, ...stage }),
  );
  tx.note('pipeline.create', pipeline.id, { name: input.name });
  tx.forget();
  return { id: pipeline.id, stages: stages.map(({ id, name }) => ({ id, name })) };
}

export const Currency = z
  .string()
  .trim()
  .toUpperCase()
  .refine((code) => Intl.supportedValuesOf('currency').includes(code), 'Write the currency in three letters, like GBP');
export const ChangePipeline = z.object({ currency: Currency });

export async function changePipeline(
  tx: Write,
  id: string,
  { currency }: z.infer<typeof ChangePipeline>,
): Promise<void> {
  demand(tx.actor, 'build');
  const pipeline = await tx.em.findOne(Pipeline, { id, business: tx.actor.businessId });
  if (!pipeline) throw notHere('pipeline');
  tx.note('pipeline.change', id, { before: { currency: pipeline.currency }, after: { currency } });
  pipeline.currency = currency;
}

/** A pipeline with its deals: neither is seen any more until it is put back. What its deals have brought stays counted. */
export async function removePipeline(tx: Write, id: string, agreed: boolean): Promise<void> {
  demand(tx.actor, 'build');
  const { rows } = await tx.db.query<{ name: string; stages: string[]; open: number }>(
    `select p.name, array(select id::text from stage where pipeline_id = p.id) as stages, (select count(*)::int from deal d where d.pipeline_id = p.id and d.closed_at is null) as open
     from pipeline p where p.id = $1 and p.business_id = $2 and p.removed_at is null for update`,
    [id, tx.actor.businessId],
  );
  const found = rows[0];
  if (!found) throw notHere('pipeline');
  const named = await workflowsNaming(tx, [id, ...found.stages]);
  refuseIfUsed(
    found.name,
    [...named.values()].flat().map((name) => `the workflow “${name}”`),
  );
  if (found.open > 0 && !agreed)
    throw new Refusal(
      409,
      'under-way',
      `${found.open === 1 ? 'One deal is' : `${found.open} deals are`} still open in “${found.name}”. They go with it, and come back with it.`,
    );
  await tx.db.query('update pipeline set removed_at = $2 where id = $1', [id, new Date(tx.runtime.now())]);
  tx.note('pipeline.remove', id, { name: found.name });
  tx.forget();
  tx.ring();
}
