import { countAudience } from '../../app/lists.ts';
import { gives } from '../../web/endpoint.ts';

export const GET = gives((use, _, query) =>
  countAudience(use, query.get('to') ?? '', query.get('consent') === 'given'),
);
