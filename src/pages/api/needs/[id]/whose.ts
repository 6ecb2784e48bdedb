import { sayWhoseNumber, WhoseNumber } from '../../../../app/whose-number.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(WhoseNumber, (use, { answer }, { id }) => sayWhoseNumber(use, id!, answer));
