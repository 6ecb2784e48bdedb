import { getTemplate, removeTemplate, saveTemplate, TemplateInput } from '../../../app/email-templates.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getTemplate(use, id!));
export const PUT = takes(TemplateInput, (use, input, { id }) => saveTemplate(use, id!, input));
export const DELETE = gives((use, { id }) => removeTemplate(use, id!));
