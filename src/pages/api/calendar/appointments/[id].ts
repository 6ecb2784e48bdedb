import { removeAppointment } from '../../../../app/calendar.ts';
import { gives } from '../../../../web/endpoint.ts';

export const DELETE = gives((use, { id }) => removeAppointment(use, id!));
