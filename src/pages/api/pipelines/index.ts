import { z } from 'zod';
import { createPipeline } from '../../../app/pipelines.ts';
import { changes } from '../../../web/endpoint.ts';

const Input = z.object({
  name: z.string().trim().min(1, 'Give the pipeline a name').max(100),
  stages: z
    .array(
      z.object({
        name: z.string().trim().min(1, 'Give each stage a name').max(60),
        ends: z.enum(['won', 'lost']).nullable(),
      }),
    )
    .min(2)
    .max(20)
    .optional(),
});
export const POST = changes(Input, (use, input) => createPipeline(use, input));
