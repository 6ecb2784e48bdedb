import { putFormLive } from '../../../../app/chat-forms.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => putFormLive(use, id!));
