import { importCalendar } from '../../../app/calendar.ts';
import { takesFile } from '../../../web/endpoint.ts';

export const POST = takesFile(4 * 1024 * 1024, (use, file, { colleague }) => importCalendar(use, colleague!, file));
