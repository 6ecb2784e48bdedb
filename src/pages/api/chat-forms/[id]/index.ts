import { getChatForm, removeChatForm, saveChatForm } from '../../../../app/chat-forms.ts';
import { ChatForm } from '../../../../core/form/chat-form.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getChatForm(use, id!));
export const PUT = takes(ChatForm, (use, content, { id }) => saveChatForm(use, id!, content));
export const DELETE = gives((use, { id }) => removeChatForm(use, id!));
