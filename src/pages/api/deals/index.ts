import { NewDeal, openDeal } from '../../../app/deals.ts';
import { takes } from '../../../web/endpoint.ts';

export const POST = takes(NewDeal, (use, input) => openDeal(use, input));
