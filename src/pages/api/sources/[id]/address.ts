import { renewAddress } from '../../../../app/sources.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => renewAddress(use, id!));
