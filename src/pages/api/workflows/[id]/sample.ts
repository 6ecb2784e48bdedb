import { z } from 'zod';
import { chooseSample } from '../../../../app/sheet.ts';
import { changes } from '../../../../web/endpoint.ts';

export const PUT = changes(z.object({ arrivalId: z.uuid().nullable() }), (use, { arrivalId }, { id }) =>
  chooseSample(use, id!, arrivalId),
);
