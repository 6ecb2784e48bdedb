import { z } from 'zod';
import { showLayout } from '../../../app/email-templates.ts';
import { EmailLayout } from '../../../core/email/layout.ts';
import { takes } from '../../../web/endpoint.ts';

const Input = z.object({ layout: EmailLayout });
export const POST = takes(Input, (use, { layout }) => showLayout(use, layout));
