import { AddSource, addSource, listSources } from '../../../app/sources.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listSources(use));
export const POST = takes(AddSource, (use, input) => addSource(use, input));
