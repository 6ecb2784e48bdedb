import { CannedInput, keepAnswer } from '../../../app/answer-by-hand.ts';
import { changes } from '../../../web/endpoint.ts';

export const POST = changes(CannedInput, (use, input) => keepAnswer(use, input));
