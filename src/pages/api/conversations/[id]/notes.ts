import { NoteInput, noteOnConversation } from '../../../../app/answer-by-hand.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(NoteInput, (use, input, { id }) => noteOnConversation(use, id!, input));
