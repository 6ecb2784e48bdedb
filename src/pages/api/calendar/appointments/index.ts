import { addAppointment, NewAppointment } from '../../../../app/calendar.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(NewAppointment, (use, input) => addAppointment(use, input));
