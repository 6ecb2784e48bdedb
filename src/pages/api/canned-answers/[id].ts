import { dropAnswer } from '../../../app/conversations.ts';
import { gives } from '../../../web/endpoint.ts';

export const DELETE = gives((use, { id }) => dropAnswer(use, id!));
