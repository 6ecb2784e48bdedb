import { MailingInput, sendMailing } from '../../../app/mailings.ts';
import { takes } from '../../../web/endpoint.ts';

export const POST = takes(MailingInput, sendMailing);
