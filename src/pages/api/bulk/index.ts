import { listBulk, StartBulk, startBulk } from '../../../app/bulk.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listBulk(use));
export const POST = takes(StartBulk, (use, input) => startBulk(use, input));
