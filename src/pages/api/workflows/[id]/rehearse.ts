import { z } from 'zod';
import { rehearse } from '../../../../app/rehearse.ts';
import { takes } from '../../../../web/endpoint.ts';

const Input = z.object({
  arrivalId: z.uuid().nullable(),
  happens: z.boolean().default(false),
  values: z.record(z.string().max(200), z.string().max(5000)).optional(),
});
export const POST = takes(Input, (use, input, { id }) => rehearse(use, id!, input));
