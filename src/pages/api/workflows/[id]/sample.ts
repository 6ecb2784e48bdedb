import { z } from 'zod';
import { chooseSample } from '../../../../app/sheet.ts';
import { takes } from '../../../../web/endpoint.ts';

export const PUT = takes(z.object({ arrivalId: z.uuid().nullable() }), (use, { arrivalId }, { id }) =>
  chooseSample(use, id!, arrivalId),
);
