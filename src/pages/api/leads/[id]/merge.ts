import { z } from 'zod';
import { mergeLeads, previewMerge } from '../../../../app/lead-care.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }, query) => previewMerge(use, id!, query.get('with') ?? ''));
export const POST = takes(z.object({ with: z.uuid() }), (use, input, { id }) => mergeLeads(use, id!, input.with));
