import { undoMerge } from '../../../../app/lead-care.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => undoMerge(use, id!));
