import { undoMerge } from '../../../../app/lead-care.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does((use, { id }) => undoMerge(use, id!));
