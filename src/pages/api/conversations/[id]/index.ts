import { ConversationChange, changeConversation, getConversation } from '../../../../app/conversations.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getConversation(use, id!));
export const PUT = takes(ConversationChange, (use, input, { id }) => changeConversation(use, id!, input));
