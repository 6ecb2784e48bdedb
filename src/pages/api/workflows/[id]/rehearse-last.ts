import { rehearseLast } from '../../../../app/rehearse.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => rehearseLast(use, id!));
