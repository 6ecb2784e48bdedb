import { MailingInput, sendMailing } from '../../../app/mailings.ts';
import { changes } from '../../../web/endpoint.ts';

export const POST = changes(MailingInput, sendMailing);
