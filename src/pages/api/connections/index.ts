import { addConnection, ConnectionInput, listConnections } from '../../../app/connections.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listConnections(use));
export const POST = takes(ConnectionInput, (use, input) => addConnection(use, input));
