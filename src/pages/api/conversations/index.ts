import { CONVERSATION_FILTERS, type ConversationFilter, listConversations } from '../../../app/conversations.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, _, query) => {
  const asked = query.get('filter') as ConversationFilter;
  return listConversations(use, {
    filter: CONVERSATION_FILTERS.includes(asked) ? asked : 'open',
    search: query.get('search') ?? '',
  });
});
