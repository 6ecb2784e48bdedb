import { saveCard } from '../../../../app/sources.ts';
import { LeadCard } from '../../../../core/source/lead-card.ts';
import { takes } from '../../../../web/endpoint.ts';

export const PUT = takes(LeadCard, (use, input, { id }) => saveCard(use, id!, input));
