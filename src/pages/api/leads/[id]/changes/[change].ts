import { putBack } from '../../../../../app/lead-changes.ts';
import { gives } from '../../../../../web/endpoint.ts';

export const POST = gives((use, { id, change }) => putBack(use, id!, change!));
