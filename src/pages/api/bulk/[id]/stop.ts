import { stopBulk } from '../../../../app/bulk.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does((use, { id }) => stopBulk(use, id!));
