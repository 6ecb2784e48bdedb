import { sendForReview } from '../../../../app/chat-templates.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => sendForReview(use, id!));
