import { v7 as uuidv7 } from 'uuid';
import { Pipeline, Stage } from '../../db/entities/record.ts';
import { demand } from '../actor.ts';
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
  input: { name: string; stages?: NewStage[] | undefined },
): Promise<{ id: string; stages: { id: string; name: string }[] }> {
  demand(tx.actor, 'coordinator');
  const pipeline = tx.em.create(Pipeline, {
    id: uuidv7(),
    business: tx.actor.businessId,
    name: input.name,
    createdAt: new Date(),
  });
  const stages = (input.stages ?? USUAL).map((stage, position) =>
    tx.em.create(Stage, { id: uuidv7(), pipeline, position, ...stage }),
  );
  tx.note('pipeline.create', pipeline.id, { name: input.name });
  tx.forget();
  return { id: pipeline.id, stages: stages.map(({ id, name }) => ({ id, name })) };
}
