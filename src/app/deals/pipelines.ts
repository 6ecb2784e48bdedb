import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { currencyOf } from '../../core/words/money.ts';
import { Pipeline, Stage } from '../../db/entities/record.ts';
import { demand } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Write } from '../use.ts';

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
  pipeline.currency = currency;
  tx.note('pipeline.change', id, { currency });
}
