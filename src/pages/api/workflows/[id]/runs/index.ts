import { LOG_FILTERS, type LogFilter, listRuns } from '../../../../../app/log.ts';
import { askedId } from '../../../../../web/asked-id.ts';
import { gives } from '../../../../../web/endpoint.ts';

export const GET = gives((use, { id }, query) => {
  const wanted = query.get('show') as LogFilter;
  return listRuns(use, id!, {
    search: query.get('search') ?? '',
    filter: LOG_FILTERS.includes(wanted) ? wanted : 'all',
    before: askedId(query, 'before'),
  });
});
