import { fetchSample } from '../../../../app/arrivals.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => fetchSample(use, id!));
