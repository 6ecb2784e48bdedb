import { editLead, getLead, LeadEdit } from '../../../../app/leads.ts';
import { changes, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getLead(use, id!));
export const PUT = changes(LeadEdit, (use, input, { id }) => editLead(use, id!, input));
