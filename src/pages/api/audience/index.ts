import { AudienceAsked, askedOf, countAudience } from '../../../app/audience.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, _, query) => countAudience(use, askedOf(AudienceAsked, query)));
