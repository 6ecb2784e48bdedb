import { changeDeal, DealInput } from '../../../app/deals.ts';
import { takes } from '../../../web/endpoint.ts';

export const PUT = takes(DealInput, (use, input, { id }) => changeDeal(use, id!, input));
