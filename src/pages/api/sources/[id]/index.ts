import { z } from 'zod';
import { getSource, pauseSource, renameSource } from '../../../../app/sources.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getSource(use, id!));
const Change = z.object({ name: z.string().max(100).optional(), paused: z.boolean().optional() });
export const PUT = takes(Change, async (use, input, { id }) => {
  if (input.name !== undefined) await renameSource(use, id!, input.name);
  if (input.paused !== undefined) await pauseSource(use, id!, input.paused);
  return getSource(use, id!);
});
