import { z } from 'zod';
import { changeDeal, DealInput, getBoard, NewDeal, openDeal } from '../app/deals/deals.ts';
import { ChangePipeline, Currency, changePipeline, createPipeline, removePipeline } from '../app/deals/pipelines.ts';
import { doors } from './route.ts';

const NewPipeline = z.object({
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
  currency: Currency.optional(),
});

const { reads, writes, writesAlone } = doors('see-work', 'do-work');

export const dealsRoutes = [
  writes('PUT', '/deals/:deal', DealInput, (tx, input, { deal }) => changeDeal(tx, deal, input)),
  writes('POST', '/deals', NewDeal, (tx, input) => openDeal(tx, input)),
  reads('/pipelines/:pipeline', (use, { pipeline }) => getBoard(use, pipeline)),
  writes(
    'PUT',
    '/pipelines/:pipeline',
    ChangePipeline,
    (tx, input, { pipeline }) => changePipeline(tx, pipeline, input),
    'build',
  ),
  writesAlone(
    'DELETE',
    '/pipelines/:pipeline',
    (tx, { pipeline }, query) => removePipeline(tx, pipeline, query.get('agreed') === '1'),
    'build',
  ),
  writes('POST', '/pipelines', NewPipeline, (tx, input) => createPipeline(tx, input), 'build'),
] as const;
