import { removeAppointment } from '../../../../app/calendar.ts';
import { does } from '../../../../web/endpoint.ts';

export const DELETE = does((use, { id }) => removeAppointment(use, id!));
