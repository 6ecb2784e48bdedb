import { listArrivals } from '../../../../../app/arrivals.ts';
import { suggestCard } from '../../../../../app/sources.ts';
import { gives } from '../../../../../web/endpoint.ts';

export const GET = gives(async (use, { id }, query) => {
  const found = await listArrivals(use, id!, { state: query.get('state'), before: query.get('before') });
  return found.map((one) => ({ ...one, guess: suggestCard(use, one.fields) }));
});
