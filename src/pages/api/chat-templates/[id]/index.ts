import { getChatTemplate, removeChatTemplate, saveChatTemplate } from '../../../../app/chat-templates.ts';
import { ChatTemplateContent } from '../../../../core/message/chat-template.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getChatTemplate(use, id!));
export const PUT = takes(ChatTemplateContent, (use, content, { id }) => saveChatTemplate(use, id!, content));
export const DELETE = gives((use, { id }) => removeChatTemplate(use, id!));
