import { dropDraft } from '../../../../app/drafts.ts';
import { does } from '../../../../web/endpoint.ts';

export const DELETE = does((use, { id }) => dropDraft(use, id!));
