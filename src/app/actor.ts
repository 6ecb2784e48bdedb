import type { EntityManager } from '@mikro-orm/postgresql';
import { v7 as uuidv7 } from 'uuid';
import { Audit } from '../db/entities/business.ts';
import type { Runtime } from '../runtime.ts';
import { TableProblem } from '../tables/table.ts';

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
  role: Role;
}

/** What a use case works with: one fork of the unit of work, and the process's parts. */
export interface Use {
  runtime: Runtime;
  em: EntityManager;
  actor: Actor;
}

/** Something a person asked for that cannot be done, in words that say what to do. */
export class Refusal extends Error {
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 409 | 413 | 422 | 429 | 502,
    readonly code: string,
    message: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(message);
  }
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

/** Notes who did what; written with the same transaction as the change itself. */
export function audit(
  em: EntityManager,
  actor: Actor,
  action: string,
  subject: string,
  detail: Record<string, unknown> = {},
): void {
  em.create(Audit, {
    id: uuidv7(),
    business: actor.businessId,
    person: actor.personId,
    at: new Date(),
    action,
    subject,
    detail,
  });
}

/** The same at once, for what was written past the object mapper. */
export async function noteDeed(
  use: Use,
  action: string,
  subject: string,
  detail: Record<string, unknown> = {},
): Promise<void> {
  const em = use.runtime.orm.em.fork();
  audit(em, use.actor, action, subject, detail);
  await em.flush();
}

export const notHere = (what: string) =>
  new Refusal(404, 'not-here', `This ${what} is not here. It may have been removed.`);

/** PostgreSQL on text that is no uuid, and on text that is no time (invalid_text_representation, invalid_datetime_format). */
const NO_SUCH_VALUE = new Set(['22P02', '22007', '22008']);

/** The refusal behind an error: an address with an id or a time in it that is none leads to nothing. Null for real trouble. */
export function refusalOf(error: unknown): Refusal | null {
  if (error instanceof Refusal) return error;
  if (error instanceof TableProblem) return new Refusal(422, error.code, error.message);
  return NO_SUCH_VALUE.has(String((error as { code?: unknown } | null)?.code)) ? notHere('page or entry') : null;
}
