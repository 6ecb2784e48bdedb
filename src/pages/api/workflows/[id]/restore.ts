import { z } from 'zod';
import { restoreVersion } from '../../../../app/workflows.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(z.object({ number: z.number().int().positive() }), (use, { number }, { id }) =>
  restoreVersion(use, id!, number),
);
