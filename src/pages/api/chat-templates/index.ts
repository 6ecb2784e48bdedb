import { createChatTemplate, listChatTemplates, NewChatTemplate } from '../../../app/chat-templates.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listChatTemplates(use));
export const POST = takes(NewChatTemplate, (use, input) => createChatTemplate(use, input));
