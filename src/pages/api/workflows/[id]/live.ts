import { z } from 'zod';
import { pauseWorkflow, putLive, underWay } from '../../../../app/workflows.ts';
import { changes, gives } from '../../../../web/endpoint.ts';

/** How many leads are under way on older versions, and how many of them could go on with the draft. */
export const GET = gives((use, { id }) => underWay(use, id!));
/** Puts the draft live; leads under way finish on their version, or move on to this one. */
export const POST = changes(z.object({ moveOn: z.boolean().default(false) }), (use, { moveOn }, { id }) =>
  putLive(use, id!, moveOn),
);
/** Pauses or resumes what is live. */
export const PUT = changes(z.object({ paused: z.boolean() }), (use, { paused }, { id }) =>
  pauseWorkflow(use, id!, paused),
);
