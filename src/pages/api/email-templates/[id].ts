import { getTemplate, removeTemplate, saveTemplate, TemplateInput } from '../../../app/email-templates.ts';
import { changes, does, gives } from '../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getTemplate(use, id!));
export const PUT = changes(TemplateInput, (use, input, { id }) => saveTemplate(use, id!, input));
export const DELETE = does((use, { id }) => removeTemplate(use, id!));
