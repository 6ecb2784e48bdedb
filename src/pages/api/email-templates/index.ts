import { createTemplate, TemplateInput } from '../../../app/email-templates.ts';
import { changes } from '../../../web/endpoint.ts';

export const POST = changes(TemplateInput, createTemplate);
