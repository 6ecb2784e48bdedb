import { settleNeed } from '../../../../app/needs-you.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => settleNeed(use, id!));
