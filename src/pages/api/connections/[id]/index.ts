import { ConnectionInput, changeConnection } from '../../../../app/connections.ts';
import { takes } from '../../../../web/endpoint.ts';

export const PUT = takes(ConnectionInput, (use, input, { id }) => changeConnection(use, id!, input));
