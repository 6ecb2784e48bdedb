import { ConsentByHand, recordConsent } from '../../../../app/consent-record.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(ConsentByHand, (use, input, { id }) => recordConsent(use, id!, input));
