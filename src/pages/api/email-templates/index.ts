import { createTemplate, TemplateInput } from '../../../app/email-templates.ts';
import { takes } from '../../../web/endpoint.ts';

export const POST = takes(TemplateInput, createTemplate);
