import { editLead, getLead, LeadEdit } from '../../../../app/leads.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getLead(use, id!));
export const PUT = takes(LeadEdit, (use, input, { id }) => editLead(use, id!, input));
