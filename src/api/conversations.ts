import {
  AnswerInput,
  answerByHand,
  CannedInput,
  dropAnswer,
  keepAnswer,
  NoteInput,
  noteOnConversation,
} from '../app/conversations/answer-by-hand.ts';
import { ConversationChange, changeConversation } from '../app/conversations/change-conversation.ts';
import { DraftInput, dropDraft, sendDraft } from '../app/conversations/drafts.ts';
import { getConversation } from '../app/conversations/get-conversation.ts';
import {
  CONVERSATION_FILTERS,
  type ConversationFilter,
  listConversations,
} from '../app/conversations/list-conversations.ts';
import { doors } from './route.ts';

const { reads, writes, writesAlone } = doors('see-work', 'do-work');

export const conversationsRoutes = [
  writes('POST', '/conversations/:conversation/answers', AnswerInput, (tx, input, { conversation }) =>
    answerByHand(tx, conversation, input),
  ),
  reads('/conversations/:conversation', (use, { conversation }) => getConversation(use, conversation)),
  writes('PUT', '/conversations/:conversation', ConversationChange, (tx, input, { conversation }) =>
    changeConversation(tx, conversation, input),
  ),
  writes('POST', '/conversations/:conversation/notes', NoteInput, (tx, input, { conversation }) =>
    noteOnConversation(tx, conversation, input),
  ),
  reads('/conversations', (use, _, query) => {
    const asked = query.get('filter') as ConversationFilter;
    return listConversations(use, {
      filter: CONVERSATION_FILTERS.includes(asked) ? asked : 'open',
      search: query.get('search') ?? '',
    });
  }),
  writesAlone('DELETE', '/drafts/:draft', (tx, { draft }) => dropDraft(tx, draft)),
  writes('POST', '/drafts/:draft/send', DraftInput, (tx, input, { draft }) => sendDraft(tx, draft, input)),
  writesAlone('DELETE', '/canned-answers/:canned', (tx, { canned }) => dropAnswer(tx, canned)),
  writes('POST', '/canned-answers', CannedInput, (tx, input) => keepAnswer(tx, input)),
] as const;
