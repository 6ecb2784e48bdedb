import { z } from 'zod';
import { rehearse } from '../../../../app/rehearse.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(z.object({ arrivalId: z.uuid().nullable() }), (use, { arrivalId }, { id }) =>
  rehearse(use, id!, arrivalId),
);
