import { tryConnection } from '../../../../app/connections.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => tryConnection(use, id!));
