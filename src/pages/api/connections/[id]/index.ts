import { ConnectionInput, changeConnection } from '../../../../app/connections.ts';
import { removeConnection } from '../../../../app/removal.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const PUT = takes(ConnectionInput, (use, input, { id }) => changeConnection(use, id!, input));
export const DELETE = gives((use, { id }) => removeConnection(use, id!));
