import { Connection } from '../../db/entities/connection.ts';
import { type AccessOf, accessOf } from '../../engine/services/access-of.ts';
import { givenBy, renewAt, sealGiven } from '../../engine/services/grants.ts';
import { allowed, allowing, newVerifier } from '../../gateways/described/token-service.ts';
import type { Runtime } from '../../runtime.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { beginErrand, endErrand, lookAtErrand } from './errands.ts';
import { type TriedAccount, tryAccount } from './try-account.ts';

/** How it stands with what is allowed at a service on its own page. */
export interface AccessView {
  /** Null while nobody has allowed anything. */
  allowedAt: string | null;
  allowedBy: string | null;
  renewedAt: string | null;
  /** Why it is worth nothing any more; empty while it is. */
  over: string;
}

/** Where a service sends people back to; it wants to know that beforehand. One for all businesses: what comes along says which is meant. */
export const accessBackTo = ({ settings }: Pick<Runtime, 'settings'>): string => `${settings.publicUrl}/allowed`;

export async function getAccess({ db, actor }: Use, connection: string): Promise<AccessView> {
  const { rows } = await db.query<{
    allowed_at: Date;
    renewed_at: Date;
    ended_at: Date | null;
    problem: string;
    name: string | null;
  }>(
    `select g.allowed_at, g.renewed_at, g.ended_at, g.problem, p.name from service_grant g left join person p on p.id = g.allowed_by_id
     where g.connection_id = $1 and g.business_id = $2`,
    [connection, actor.businessId],
  );
  const row = rows[0];
  return {
    allowedAt: row?.allowed_at.toISOString() ?? null,
    allowedBy: row?.name ?? null,
    renewedAt: row?.renewed_at.toISOString() ?? null,
    over: row?.ended_at ? row.problem : '',
  };
}

/** What a connection asks for tokens with, filled in, and the connection as it is tried. */
async function asks(use: Use, id: string): Promise<AccessOf & { connection: TriedAccount }> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  const { kind, name, settings } = found;
  const connection = { id, kind, name, settings, secret: found.secret ? use.runtime.secrets.open(found.secret) : null };
  const access = accessOf(connection);
  if (!access)
    throw new Refusal(409, 'no-access', 'This service is signed in to in another way: nobody has to allow anything.');
  return { ...access, connection };
}

/** Where whoever asks is to go, to allow on the service's own page what we may do there. */
export async function beginAccess(use: Use, id: string): Promise<{ address: string }> {
  const { runtime, actor } = use;
  demand(actor, 'keys');
  const { ask, authorizeAddress, more } = await asks(use, id);
  const verifier = newVerifier();
  const state = await beginErrand(runtime, 'access', {
    ...{ business: actor.businessId, person: actor.personId, connection: id, verifier },
  });
  const page = { authorizeAddress, more, state, verifier, backTo: accessBackTo(runtime) };
  const address = await allowing(runtime.outside.http, ask, page);
  if (address === null)
    throw new Refusal(
      422,
      'address',
      'The address of the page where access is allowed is not a web address, or the one tokens are fetched from is not. Look at “How it is called”.',
    );
  await use.write(async (tx) => tx.note('connection.access_begin', id));
  return { address };
}

/** The page of ours that somebody who comes back from a service is meant for; null where nothing was begun, or too long ago. */
export async function whereAllowed(runtime: Runtime, came: URLSearchParams): Promise<string | null> {
  const begun = await lookAtErrand(runtime, 'access', came.get('state') ?? '');
  return begun ? `/connections/${begun.connection}/allowed?${came}` : null;
}

/**
 * What a service says of what was asked there, when somebody comes back: kept, where it answers what this same person has begun, and tried.
 *
 * @returns what was found there, in words
 * @throws Refusal with what to do
 */
export async function finishAccess(use: Use, id: string, came: URLSearchParams): Promise<string> {
  const { runtime, actor } = use;
  demand(actor, 'keys');
  const { ask, authorizeAddress, connection } = await asks(use, id);
  const state = came.get('state') ?? '';
  const begun = await endErrand(runtime, 'access', state);
  if (!begun || begun.connection !== id || begun.person !== actor.personId || begun.business !== actor.businessId)
    throw new Refusal(
      409,
      'over',
      'This took too long, was begun by somebody else, or is done already. If access is still not allowed, begin once more.',
    );
  const refused = came.get('error');
  if (refused !== null)
    throw new Refusal(
      409,
      'not-allowed',
      refused === 'access_denied'
        ? 'Access was not allowed there. Nothing has changed.'
        : `The service did not let you allow it: ${(came.get('error_description') ?? refused).slice(0, 200)}`,
    );
  const backTo = accessBackTo(runtime);
  const told = await allowed(runtime.outside.http, ask, came, {
    ...{ authorizeAddress, backTo, state, verifier: begun.verifier! },
  });
  if (!told.ok)
    throw new Refusal(
      502,
      'not-allowed',
      `${told.detail} Nothing was kept. Look at client ID, client secret and addresses under “How it is called”, and begin once more.`,
    );
  const now = new Date(runtime.now());
  await use.write(async (tx) => {
    await tx.db.query(
      `insert into service_grant (connection_id, business_id, secret, given_by, renew_at, renewed_at, allowed_at, allowed_by_id)
       values ($1, $2, $3, $4, $5, $6, $6, $7)
       on conflict (connection_id) do update set secret = excluded.secret, given_by = excluded.given_by, renew_at = excluded.renew_at, renewed_at = excluded.renewed_at,
         renewing_until = null, allowed_at = excluded.allowed_at, allowed_by_id = excluded.allowed_by_id, ended_at = null, problem = ''`,
      [
        ...[id, actor.businessId, sealGiven(runtime.secrets, told.given), givenBy(ask)],
        ...[renewAt(told.given, runtime.now()), now, actor.personId],
      ],
    );
    await tx.db.query('update connection_health set told_at = null, trouble_since = null where connection_id = $1', [
      id,
    ]);
    await tx.db.query(
      `update needs_you set settled_at = $3, settled_by_id = $4 where business_id = $1 and subject = 'connection:' || $2::text and settled_at is null`,
      [actor.businessId, id, now, actor.personId],
    );
    tx.note('connection.access', id);
    tx.forget();
  });
  runtime.grants.drop(id);
  return tryAccount(use, connection);
}

/** What was allowed is thrown away here. The service is not told: it is taken back there too by whoever allowed it. */
export async function endAccess(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'keys');
  const gone = await tx.db.query('delete from service_grant where connection_id = $1 and business_id = $2', [
    id,
    tx.actor.businessId,
  ]);
  if (gone.rowCount === 0) throw notHere('access');
  tx.runtime.grants.drop(id);
  tx.note('connection.access_end', id);
}
