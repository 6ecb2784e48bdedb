import { getBoard } from '../../../app/deals.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getBoard(use, id!));
