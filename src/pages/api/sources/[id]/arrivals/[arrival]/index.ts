import { getArrival } from '../../../../../../app/arrivals.ts';
import { gives } from '../../../../../../web/endpoint.ts';

export const GET = gives((use, { id, arrival }) => getArrival(use, id!, arrival!));
