import { z } from 'zod';
import { pauseWorkflow, putLive } from '../../../../app/workflows.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

/** Puts the draft live. */
export const POST = gives((use, { id }) => putLive(use, id!));
/** Pauses or resumes what is live. */
export const PUT = takes(z.object({ paused: z.boolean() }), (use, { paused }, { id }) =>
  pauseWorkflow(use, id!, paused),
);
