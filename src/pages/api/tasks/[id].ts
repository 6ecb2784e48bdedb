import { z } from 'zod';
import { settleTask } from '../../../app/leads.ts';
import { takes } from '../../../web/endpoint.ts';

export const PUT = takes(z.object({ done: z.boolean() }), (use, { done }, { id }) => settleTask(use, id!, done));
