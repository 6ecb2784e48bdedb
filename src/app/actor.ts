import { mayDo, RIGHT, type Right, type Role } from '../core/people/rights.ts';
import { Refusal } from './refusal.ts';

/** Who does something, in which business. Every use case is given one. */
export interface Actor {
  personId: string;
  name: string;
  email: string;
  businessId: string;
  businessName: string;
  country: string;
  locale: string;
  timeZone: string;
  holidays: string[];
  /** Whether this business has its practice world on. */
  practice: boolean;
  /** How far its first visit has come. */
  firstSteps: 'open' | 'left' | 'done';
  role: Role;
  /** Ids of the people whose leads, conversations, deals, appointments and tasks they work with; null for everybody's. */
  leadsOf: string[] | null;
}

export const may = (actor: Pick<Actor, 'role'>, right: Right): boolean => mayDo(actor.role, right);

export function demand(actor: Pick<Actor, 'role'>, right: Right): void {
  if (!may(actor, right)) throw new Refusal(403, 'not-allowed', RIGHT[right].refusal);
}
