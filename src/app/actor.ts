import { mayDo, RIGHT, type Right, type Role } from '../core/people/rights.ts';
import { Refusal } from './refusal.ts';

/** Who does something, in which business. Every use case is given one. */
export interface Actor {
  personId: string;
  name: string;
  email: string;
  businessId: string;
  businessName: string;
  /** How it is called in addresses. */
  businessKey: string;
  businessColor: string;
  /** It is removed, and can be put back for some days: nothing else may be done in it. */
  businessRemoved: boolean;
  /** They belong to others, too: what they ask for names the one that is meant. */
  several: boolean;
  country: string;
  /** How dates and numbers are written for them. */
  locale: string;
  /** How the business writes them to others. */
  businessLocale: string;
  timeZone: string;
  holidays: string[];
  /** Whether this business has its practice world on. */
  practice: boolean;
  /** How far its first visit has come. */
  firstSteps: 'open' | 'left' | 'done';
  role: Role;
  /** Ids of the people whose leads, conversations, deals, appointments and tasks they work with; null for everybody's. */
  leadsOf: string[] | null;
  /** The sign-in they ask in: SHA-256 of its token. */
  sessionId: string;
  /** They came in by this business's own sign-on, which speaks for it alone: what is theirs as a person they do not change. */
  bySignOn: boolean;
  /** When they have proved last who they are; milliseconds. */
  provedAt: number;
  /** The business asks for more than a password, and that is all they have given: they may do nothing but add it. */
  lacksSecond: boolean;
}

export const may = (actor: Pick<Actor, 'role'>, right: Right): boolean => mayDo(actor.role, right);

export function demand(actor: Pick<Actor, 'role' | 'lacksSecond'>, right: Right): void {
  if (actor.lacksSecond && right !== 'own')
    throw new Refusal(
      403,
      'second',
      'This business asks everybody for more than a password. Add a passkey, or codes of your phone, under Settings, You.',
    );
  if (!may(actor, right)) throw new Refusal(403, 'not-allowed', RIGHT[right].refusal);
}

/** What is somebody's as a person, whichever businesses they belong to, is not changed by whoever only one of these has vouched for. */
export function demandOneself({ actor }: { actor: Pick<Actor, 'bySignOn'> }): void {
  if (actor.bySignOn)
    throw new Refusal(
      403,
      'sign-on',
      'You came in by the sign-in of your business: how you sign in is looked after there.',
    );
}
