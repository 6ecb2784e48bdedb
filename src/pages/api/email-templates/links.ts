import { z } from 'zod';
import { tryLinks } from '../../../app/try-links.ts';
import { EmailLayout } from '../../../core/email/layout.ts';
import { takes } from '../../../web/endpoint.ts';

const Input = z.object({ layout: EmailLayout });
export const POST = takes(Input, (use, { layout }) => tryLinks(use, layout));
