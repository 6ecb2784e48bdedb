import { z } from 'zod';
import { mergeLeads, previewMerge } from '../../../../app/lead-care.ts';
import { askedId } from '../../../../web/asked-id.ts';
import { changes, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }, query) => previewMerge(use, id!, askedId(query, 'with') ?? ''));
export const POST = changes(z.object({ with: z.uuid() }), (use, input, { id }) => mergeLeads(use, id!, input.with));
