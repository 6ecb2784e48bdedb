import { listBulk, StartBulk, startBulk } from '../../../app/bulk.ts';
import { changes, gives } from '../../../web/endpoint.ts';

export const GET = gives((use) => listBulk(use));
export const POST = changes(StartBulk, (use, input) => startBulk(use, input));
