import { listLeads } from '../../../app/leads.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, _, query) => listLeads(use, { search: query.get('search') ?? '', before: null }));
