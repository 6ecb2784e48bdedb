import { listLeads } from '../../../app/lead-rows.ts';
import { choiceOfQuery } from '../../../core/people/choice-query.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, _, query) =>
  listLeads(use, { choice: choiceOfQuery(query), before: query.get('before') }),
);
