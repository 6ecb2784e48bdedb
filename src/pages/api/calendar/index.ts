import { getWeek } from '../../../app/calendar.ts';
import { gives } from '../../../web/endpoint.ts';

export const GET = gives((use, _, query) => getWeek(use, query.get('week')));
