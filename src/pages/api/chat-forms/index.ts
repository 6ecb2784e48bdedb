import { createChatForm, listChatForms, NewChatForm } from '../../../app/chat-forms.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listChatForms(use));
export const POST = takes(NewChatForm, (use, input) => createChatForm(use, input));
