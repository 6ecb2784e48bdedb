import { askedOf, listAudience, PeopleAsked } from '../../../app/audience.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, _, query) => listAudience(use, askedOf(PeopleAsked, query)));
