import { settleNeed } from '../../../../app/needs-you.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does((use, { id }) => settleNeed(use, id!));
