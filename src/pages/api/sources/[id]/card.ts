import { saveCard } from '../../../../app/sources.ts';
import { LeadCard } from '../../../../core/source/lead-card.ts';
import { changes } from '../../../../web/endpoint.ts';

export const PUT = changes(LeadCard, (use, input, { id }) => saveCard(use, id!, input));
