import { CannedInput, keepAnswer } from '../../../app/conversations.ts';
import { takes } from '../../../web/endpoint.ts';

export const POST = takes(CannedInput, (use, input) => keepAnswer(use, input));
