import { dropAnswer } from '../../../app/answer-by-hand.ts';
import { gives } from '../../../web/endpoint.ts';

export const DELETE = gives((use, { id }) => dropAnswer(use, id!));
