import { changeDeal, DealInput } from '../../../app/deals.ts';
import { changes } from '../../../web/endpoint.ts';

export const PUT = changes(DealInput, (use, input, { id }) => changeDeal(use, id!, input));
