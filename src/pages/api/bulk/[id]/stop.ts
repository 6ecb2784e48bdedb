import { stopBulk } from '../../../../app/bulk.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => stopBulk(use, id!));
