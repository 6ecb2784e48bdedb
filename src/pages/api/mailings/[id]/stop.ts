import { stopMailing } from '../../../../app/mailings.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does((use, { id }) => stopMailing(use, id!));
