import { makeFeed } from '../../../app/calendar.ts';
import { does } from '../../../web/endpoint.ts';

export const POST = does((use) => makeFeed(use));
