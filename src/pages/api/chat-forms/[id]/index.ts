import { getChatForm, removeChatForm, saveChatForm } from '../../../../app/chat-forms.ts';
import { ChatForm } from '../../../../core/form/chat-form.ts';
import { changes, does, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getChatForm(use, id!));
export const PUT = changes(ChatForm, (use, content, { id }) => saveChatForm(use, id!, content));
export const DELETE = does((use, { id }) => removeChatForm(use, id!));
