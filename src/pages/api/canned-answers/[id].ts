import { dropAnswer } from '../../../app/answer-by-hand.ts';
import { does } from '../../../web/endpoint.ts';

export const DELETE = does((use, { id }) => dropAnswer(use, id!));
