import { z } from 'zod';
import { eraseLead } from '../../../../app/lead-care.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(z.object({ name: z.string().max(300) }), (use, { name }, { id }) =>
  eraseLead(use, id!, name),
);
