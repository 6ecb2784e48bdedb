import { v7 as uuidv7 } from 'uuid';
import { Pipeline, Stage } from '../db/entities/record.ts';
import { audit, demand, type Use } from './actor.ts';

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
  use: Use,
  input: { name: string; stages?: NewStage[] | undefined },
): Promise<{ id: string; stages: { id: string; name: string }[] }> {
  demand(use.actor, 'coordinator');
  const pipeline = use.em.create(Pipeline, {
    id: uuidv7(),
    business: use.actor.businessId,
    name: input.name,
    createdAt: new Date(),
  });
  const stages = (input.stages ?? USUAL).map((stage, position) =>
    use.em.create(Stage, { id: uuidv7(), pipeline, position, ...stage }),
  );
  audit(use.em, use.actor, 'pipeline.create', pipeline.id, { name: input.name });
  await use.em.flush();
  use.runtime.directory.forget();
  return { id: pipeline.id, stages: stages.map(({ id, name }) => ({ id, name })) };
}
