import { ConversationChange, changeConversation, getConversation } from '../../../../app/conversations.ts';
import { changes, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getConversation(use, id!));
export const PUT = changes(ConversationChange, (use, input, { id }) => changeConversation(use, id!, input));
