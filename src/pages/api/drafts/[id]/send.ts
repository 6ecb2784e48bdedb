import { DraftInput, sendDraft } from '../../../../app/drafts.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(DraftInput, (use, input, { id }) => sendDraft(use, id!, input));
