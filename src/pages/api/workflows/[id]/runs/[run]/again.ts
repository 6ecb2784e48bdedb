import { z } from 'zod';
import { runAgain } from '../../../../../../app/log.ts';
import { takes } from '../../../../../../web/endpoint.ts';

export const POST = takes(z.object({ stepId: z.string().max(40), sendAgain: z.boolean() }), (use, input, { id, run }) =>
  runAgain(use, id!, run!, input.stepId, input.sendAgain),
);
