import { HandleAgain, handleAgain } from '../../../../app/arrivals.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(HandleAgain, (use, input, { id }) => handleAgain(use, id!, input));
