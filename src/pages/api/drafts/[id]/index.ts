import { dropDraft } from '../../../../app/drafts.ts';
import { gives } from '../../../../web/endpoint.ts';

export const DELETE = gives((use, { id }) => dropDraft(use, id!));
