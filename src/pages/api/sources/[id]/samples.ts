import { listSamples, suggestCard } from '../../../../app/sources.ts';
import { gives } from '../../../../web/endpoint.ts';

export const GET = gives(async (use, { id }) => {
  const samples = await listSamples(use, id!);
  return samples.map((sample) => ({ ...sample, guess: suggestCard(use, sample.fields) }));
});
