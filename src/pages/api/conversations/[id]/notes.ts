import { NoteInput, noteOnConversation } from '../../../../app/answer-by-hand.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(NoteInput, (use, input, { id }) => noteOnConversation(use, id!, input));
