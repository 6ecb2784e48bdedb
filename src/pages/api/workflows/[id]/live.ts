import { z } from 'zod';
import { pauseWorkflow, putLive, underWay } from '../../../../app/workflows.ts';
import { changes, gives } from '../../../../web/endpoint.ts';

/** How many leads are under way on older versions, and how many of them could go on with the draft. */
export const GET = gives((use, { id }) => underWay(use, id!));
/** Puts the draft live, as whoever asks has seen it; leads under way finish on their version, or move on to this one. */
export const POST = changes(
  z.object({ revision: z.number().int().optional(), moveOn: z.boolean().default(false) }),
  (tx, input, { id }) => putLive(tx, id!, input),
);
/** Pauses or resumes what is live. */
export const PUT = changes(z.object({ paused: z.boolean() }), (use, { paused }, { id }) =>
  pauseWorkflow(use, id!, paused),
);
