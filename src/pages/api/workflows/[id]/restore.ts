import { z } from 'zod';
import { restoreVersion } from '../../../../app/workflows.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(z.object({ number: z.number().int().positive() }), (use, { number }, { id }) =>
  restoreVersion(use, id!, number),
);
