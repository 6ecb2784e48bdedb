import { NoteInput, noteOnConversation } from '../../../../app/conversations.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(NoteInput, (use, input, { id }) => noteOnConversation(use, id!, input));
