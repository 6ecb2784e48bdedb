import { stopMailing } from '../../../../app/mailings.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => stopMailing(use, id!));
