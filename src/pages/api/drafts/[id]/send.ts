import { DraftInput, sendDraft } from '../../../../app/drafts.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(DraftInput, (use, input, { id }) => sendDraft(use, id!, input));
