import { putBack } from '../../../../../app/lead-changes.ts';
import { does } from '../../../../../web/endpoint.ts';

export const POST = does((use, { id, change }) => putBack(use, id!, change!));
