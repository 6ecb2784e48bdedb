import { HandleAgain, handleAgain } from '../../../../app/arrivals.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(HandleAgain, (use, input, { id }) => handleAgain(use, id!, input));
