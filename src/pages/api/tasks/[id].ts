import { z } from 'zod';
import { settleTask } from '../../../app/leads.ts';
import { changes } from '../../../web/endpoint.ts';

export const PUT = changes(z.object({ done: z.boolean() }), (use, { done }, { id }) => settleTask(use, id!, done));
