import { getChatTemplate, removeChatTemplate, saveChatTemplate } from '../../../../app/chat-templates.ts';
import { ChatTemplateContent } from '../../../../core/message/chat-template.ts';
import { changes, does, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getChatTemplate(use, id!));
export const PUT = changes(ChatTemplateContent, (use, content, { id }) => saveChatTemplate(use, id!, content));
export const DELETE = does((use, { id }) => removeChatTemplate(use, id!));
