import { getToday } from '../../app/today.ts';
import { gives } from '../../web/endpoint.ts';

export const GET = gives((use) => getToday(use));
