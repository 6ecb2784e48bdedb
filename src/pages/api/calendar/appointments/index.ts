import { addAppointment, NewAppointment } from '../../../../app/calendar.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(NewAppointment, (use, input) => addAppointment(use, input));
