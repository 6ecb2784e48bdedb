import { CannedInput, keepAnswer } from '../../../app/answer-by-hand.ts';
import { takes } from '../../../web/endpoint.ts';

export const POST = takes(CannedInput, (use, input) => keepAnswer(use, input));
