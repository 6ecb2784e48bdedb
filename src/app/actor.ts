import { Refusal } from './refusal.ts';

export type Role = 'owner' | 'coordinator' | 'viewer';

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
}

const RANK: Record<Role, number> = { viewer: 0, coordinator: 1, owner: 2 };

export function demand(actor: Actor, role: Role): void {
  if (RANK[actor.role] < RANK[role])
    throw new Refusal(
      403,
      'not-allowed',
      role === 'owner'
        ? 'Only an owner of this business can do that.'
        : 'You can look at this business but not change it. Ask an owner for more rights.',
    );
}
