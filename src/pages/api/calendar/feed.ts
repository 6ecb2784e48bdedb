import { makeFeed } from '../../../app/calendar.ts';
import { gives } from '../../../web/endpoint.ts';

export const POST = gives((use) => makeFeed(use));
