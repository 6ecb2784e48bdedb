import { ConsentByHand, recordConsent } from '../../../../app/consent-record.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(ConsentByHand, (use, input, { id }) => recordConsent(use, id!, input));
