import { createChatTemplate, listChatTemplates, NewChatTemplate } from '../../../app/chat-templates.ts';
import { changes, gives } from '../../../web/endpoint.ts';

export const GET = gives((use) => listChatTemplates(use));
export const POST = changes(NewChatTemplate, (use, input) => createChatTemplate(use, input));
