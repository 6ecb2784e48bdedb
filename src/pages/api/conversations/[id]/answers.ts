import { AnswerInput, answerByHand } from '../../../../app/answer-by-hand.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(AnswerInput, (use, input, { id }) => answerByHand(use, id!, input));
