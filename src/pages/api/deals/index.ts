import { NewDeal, openDeal } from '../../../app/deals.ts';
import { changes } from '../../../web/endpoint.ts';

export const POST = changes(NewDeal, (use, input) => openDeal(use, input));
