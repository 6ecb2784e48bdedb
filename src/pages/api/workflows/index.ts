import { z } from 'zod';
import { createWorkflow, listWorkflows } from '../../../app/workflows.ts';
import { changes, gives } from '../../../web/endpoint.ts';

export const GET = gives((use) => listWorkflows(use));
const Create = z.object({
  name: z.string().trim().min(1, 'Give the workflow a name').max(120),
  folder: z.string().trim().max(60),
  /** What it listens to from the start. */
  sourceId: z.uuid().optional(),
});
export const POST = changes(Create, (use, input) => createWorkflow(use, input));
