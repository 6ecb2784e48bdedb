import { AnswerInput, answerByHand } from '../../../../app/answer-by-hand.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(AnswerInput, (use, input, { id }) => answerByHand(use, id!, input));
