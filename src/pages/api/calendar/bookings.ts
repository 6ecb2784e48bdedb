import { z } from 'zod';
import { giveBookings } from '../../../app/calendar.ts';
import { changes } from '../../../web/endpoint.ts';

const Input = z.object({ sourceId: z.uuid(), colleagueId: z.uuid().nullable() });
export const PUT = changes(Input, (use, { sourceId, colleagueId }) => giveBookings(use, sourceId, colleagueId));
