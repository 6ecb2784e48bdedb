import { sayWhoseNumber, WhoseNumber } from '../../../../app/whose-number.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(WhoseNumber, (use, { answer }, { id }) => sayWhoseNumber(use, id!, answer));
