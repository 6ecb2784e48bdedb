import { ConnectionInput, changeConnection } from '../../../../app/connections.ts';
import { removeConnection } from '../../../../app/removal.ts';
import { does, takes } from '../../../../web/endpoint.ts';

export const PUT = takes(ConnectionInput, (use, input, { id }) => changeConnection(use, id!, input));
export const DELETE = does((use, { id }) => removeConnection(use, id!));
