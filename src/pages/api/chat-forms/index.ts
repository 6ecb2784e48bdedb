import { createChatForm, listChatForms, NewChatForm } from '../../../app/chat-forms.ts';
import { changes, gives } from '../../../web/endpoint.ts';

export const GET = gives((use) => listChatForms(use));
export const POST = changes(NewChatForm, (use, input) => createChatForm(use, input));
