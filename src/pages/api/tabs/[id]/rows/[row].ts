import { rowHistory } from '../../../../../app/sheet-rows.ts';
import { gives } from '../../../../../web/endpoint.ts';

export const GET = gives((use, { id, row }) => rowHistory(use, id!, row!));
