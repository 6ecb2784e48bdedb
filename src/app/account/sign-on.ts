import * as oidc from 'openid-client';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { ROLES, type Role } from '../../core/people/rights.ts';
import { Business, Membership, OuterIdentity, Person, SignOn } from '../../db/entities/business.ts';
import { fetchBy } from '../../gateways/fetch-by.ts';
import type { Runtime } from '../../runtime.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { beginErrand, endErrand } from './errands.ts';
import { countGuess, networkOf, tooMany } from './guesses.ts';
import { demandProof } from './proof.ts';
import { type From, noteSignIn, openSession } from './session.ts';

const MOST_TRIES = 60;
const TIMEOUT_S = 15;

export interface SignInRules {
  /** Everybody here signs in with more than a password. */
  demandsSecond: boolean;
  /** Those who would have to add something. */
  without: number;
  signOn: {
    issuer: string;
    clientId: string;
    hasSecret: boolean;
    domains: string[];
    newcomers: Role | null;
    only: boolean;
  } | null;
  /** What the other service is to be told. */
  backTo: string;
}

const backTo = ({ settings }: Pick<Runtime, 'settings'>) => `${settings.publicUrl}/sign-in/back`;

/** How people come into this business. */
export async function getSignInRules(use: Use): Promise<SignInRules> {
  demand(use.actor, 'people');
  const business = await use.em.findOneOrFail(Business, { id: use.actor.businessId });
  const on = await use.em.findOne(SignOn, { business: business.id });
  const { rows } = await use.db.query<{ n: number }>(
    `select count(*)::int as n from membership m join person p on p.id = m.person_id where m.business_id = $1 and p.totp is null
       and not exists (select from passkey k where k.person_id = p.id)`,
    [business.id],
  );
  return {
    demandsSecond: business.demandsSecond,
    without: rows[0]!.n,
    signOn: on && {
      ...{ issuer: on.issuer, clientId: on.clientId, hasSecret: on.secret !== null && on.secret !== undefined },
      ...{ domains: on.domains, newcomers: on.newcomers ?? null, only: on.only },
    },
    backTo: backTo(use.runtime),
  };
}

/** Asks everybody for more than a password, or no longer. */
export async function demandSecond(tx: Write, { demands }: { demands: boolean }): Promise<void> {
  demand(tx.actor, 'people');
  demandProof(tx);
  const { rows } = await tx.db.query(
    `select from person p where p.id = $1 and (p.totp is not null or exists (select from passkey k where k.person_id = p.id))`,
    [tx.actor.personId],
  );
  if (demands && rows.length === 0)
    throw new Refusal(
      409,
      'first-you',
      'Add a passkey or codes of your phone for yourself first, or you would shut yourself out.',
    );
  await tx.db.query('update business set demands_second = $2 where id = $1', [tx.actor.businessId, demands]);
  tx.note('business.second', tx.actor.businessId, { demands });
}

export const SignOnInput = z.object({
  issuer: z.url('The address of the service is not complete').max(500),
  clientId: z.string().trim().min(1, 'Say the client id the service gave you').max(500),
  /** As it is where left empty. */
  secret: z.string().max(1000).default(''),
  domains: z
    .array(z.hostname('A domain is like wrenfield.example').transform((domain) => domain.toLowerCase()))
    .min(1, 'Say of which addresses people come in')
    .max(20),
  newcomers: z.enum(ROLES).exclude(['owner']).nullable(),
  only: z.boolean(),
});

/** What the service says of itself (OpenID Connect Discovery 1.0 §4); every answer of it is checked down to its signature. */
async function discover(
  runtime: Runtime,
  { issuer, clientId, secret }: { issuer: string; clientId: string; secret: string | null },
): Promise<oidc.Configuration> {
  const url = new URL(issuer);
  const local = ['localhost', '127.0.0.1', '[::1]'].includes(url.hostname);
  if (url.protocol !== 'https:' && !local)
    throw new Refusal(422, 'issuer', 'The address of the service begins with https.');
  try {
    return await oidc.discovery(url, clientId, secret ?? undefined, secret === null ? oidc.None() : undefined, {
      [oidc.customFetch]: fetchBy(runtime.outside.http) as oidc.CustomFetch,
      timeout: TIMEOUT_S,
      execute: [oidc.enableNonRepudiationChecks, ...(local ? [oidc.allowInsecureRequests] : [])],
    });
  } catch (error) {
    throw new Refusal(
      502,
      'not-tried',
      `The service does not say how to sign in there: ${wordsOf(error)} Its address is the one it calls its issuer.`,
    );
  }
}

const wordsOf = (error: unknown): string => {
  const { cause, message } = error as { cause?: { message?: string }; message?: string };
  const words = (cause?.message ?? message ?? 'no answer').slice(0, 200);
  return /[.?!]$/.test(words) ? words : `${words}.`;
};

/** Lets people in by a service of the business's own; it is asked before anything is kept. */
export async function changeSignOn(use: Use, input: z.infer<typeof SignOnInput>): Promise<void> {
  const { actor, runtime } = use;
  demand(actor, 'people');
  demandProof(use);
  const before = await use.em.findOne(SignOn, { business: actor.businessId });
  const same = before?.issuer === input.issuer && before.clientId === input.clientId;
  // A secret is for the service it was given by: sent to another it would be given away.
  const secret = input.secret === '' ? (same ? (before.secret ?? null) : null) : runtime.secrets.seal(input.secret);
  const { issuer, clientId, domains, newcomers, only } = input;
  await discover(runtime, { issuer, clientId, secret: secret === null ? null : runtime.secrets.open(secret) });
  await use.write(async (tx) => {
    await tx.em.upsert(SignOn, {
      business: actor.businessId,
      ...{ issuer, clientId, secret, domains: [...new Set(domains)], newcomers, only },
    });
    const was = before && {
      issuer: before.issuer,
      clientId: before.clientId,
      domains: before.domains,
      newcomers: before.newcomers,
      only: before.only,
    };
    tx.note('sign_on.change', actor.businessId, {
      before: was ?? {},
      after: { issuer, clientId, domains, newcomers, only },
    });
  });
}

/** Back to passwords and keys alone. Who came in by the service only asks for a password by email. */
export async function removeSignOn(tx: Write): Promise<void> {
  demand(tx.actor, 'people');
  demandProof(tx);
  await tx.em.nativeDelete(SignOn, { business: tx.actor.businessId });
  await tx.db.query(`delete from session where within = $1`, [tx.actor.businessId]);
  tx.note('sign_on.remove', tx.actor.businessId);
}

const domainOf = (email: string) => email.trim().toLowerCase().split('@').at(-1) ?? '';

/** The businesses that let in whoever has such an address by a service of their own. */
export async function signOnsFor(runtime: Runtime, email: string): Promise<{ id: string; name: string }[]> {
  const { rows } = await runtime.pool.query<{ id: string; name: string }>(
    'select b.id, b.name from sign_on s join business b on b.id = s.business_id where s.domains @> jsonb_build_array($1::text) order by b.name limit 20',
    [domainOf(email)],
  );
  return rows;
}

/** Begins a sign-in at the business's own service: where to go, and what the browser keeps meanwhile. PKCE (RFC 7636), state and nonce each time. */
export async function beginSignOn(
  runtime: Runtime,
  input: { business: string; email: string; to: string; from: From },
): Promise<{ token: string; address: string }> {
  if ((await countGuess(runtime, `sign-on:${networkOf(input.from.address)}`)) > MOST_TRIES)
    throw tooMany('tries from here');
  const on = await runtime.orm.em.fork().findOne(SignOn, { business: input.business });
  if (!on) throw new Refusal(404, 'none', 'This business has no sign-in of its own. Use your password.');
  const config = await discover(runtime, opened(runtime, on));
  const [verifier, state, nonce] = [oidc.randomPKCECodeVerifier(), oidc.randomState(), oidc.randomNonce()];
  const address = oidc.buildAuthorizationUrl(config, {
    ...{ redirect_uri: backTo(runtime), scope: 'openid email profile', state, nonce },
    ...{ code_challenge: await oidc.calculatePKCECodeChallenge(verifier), code_challenge_method: 'S256' },
    ...(input.email ? { login_hint: input.email } : {}),
  });
  const { business, to } = input;
  const token = await beginErrand(runtime, 'sign-on', { business, verifier, state, nonce, issuer: on.issuer, to });
  return { token, address: address.href };
}

const opened = (runtime: Runtime, on: { issuer: string; clientId: string; secret?: string | null | undefined }) => ({
  issuer: on.issuer,
  clientId: on.clientId,
  secret: on.secret ? runtime.secrets.open(on.secret) : null,
});

const Claims = z.object({
  iss: z.string(),
  sub: z.string().min(1).max(255),
  email: z.email().transform((email) => email.toLowerCase()),
  email_verified: z.union([z.boolean(), z.stringbool()]).optional(),
  name: z.string().max(200).optional(),
});

/**
 * Comes back from the service. What it says is taken only where it answers what this browser has begun, for us, signed by it, a moment ago; whoever is let
 * in is in this one business, whatever others they belong to: its service speaks for no other.
 */
export async function enterBySignOn(
  runtime: Runtime,
  token: string | undefined,
  came: URLSearchParams,
  from: From,
): Promise<{ cookie: string; to: string }> {
  const begun = await endErrand(runtime, 'sign-on', token);
  if (!begun) throw new Refusal(401, 'over', 'This took too long, or was begun in another window. Sign in once more.');
  const on = await runtime.orm.em.fork().findOne(SignOn, { business: begun.business! });
  // Changed meanwhile: what comes is from a service that is asked no more.
  if (!on || on.issuer !== begun.issuer)
    throw new Refusal(401, 'over', 'How people sign in has been changed meanwhile. Sign in once more.');
  if (came.has('error'))
    throw new Refusal(401, 'sign-on', 'The service did not let you in. Try once more, or ask whoever looks after it.');
  const config = await discover(runtime, opened(runtime, on));
  const address = new URL(backTo(runtime));
  address.search = came.toString();
  let claims: z.infer<typeof Claims>;
  try {
    const tokens = await oidc.authorizationCodeGrant(config, address, {
      ...{ pkceCodeVerifier: begun.verifier!, expectedState: begun.state!, expectedNonce: begun.nonce! },
      idTokenExpected: true,
    });
    claims = Claims.parse(tokens.claims());
  } catch (error) {
    throw new Refusal(
      401,
      'sign-on',
      error instanceof z.ZodError
        ? 'The service let you in, but does not tell us your email address. Whoever looks after it can have it told.'
        : `What the service says could not be believed, and nobody was let in. ${wordsOf(error)}`,
    );
  }
  if (claims.email_verified === false)
    throw new Refusal(403, 'unverified', `The service has not made sure yet that ${claims.email} is yours.`);
  if (!on.domains.includes(domainOf(claims.email)))
    throw new Refusal(403, 'domain', `Nobody comes in here with an address of ${domainOf(claims.email)}.`);
  const personId = await whoCame(runtime, on.business.id, on.newcomers ?? null, claims);
  await noteSignIn(runtime, personId, 'sign_in', networkOf(from.address));
  const cookie = await openSession(runtime, personId, on.business.id, from, 'sign-on', on.business.id);
  return { cookie, to: begun.to ?? '/' };
}

/** The person a service speaks of: known by it, by their address as a member here, or new where newcomers may. */
async function whoCame(
  runtime: Runtime,
  business: string,
  newcomers: Role | null,
  { iss: issuer, sub: subject, email, name }: z.infer<typeof Claims>,
): Promise<string> {
  return runtime.orm.em.fork().transactional(async (em) => {
    // Of two windows at once, one makes them.
    await em.execute('select pg_advisory_xact_lock(hashtextextended(?, 4681))', [`${business} ${email}`]);
    const known = await em.findOne(OuterIdentity, { issuer, subject, business });
    let person = known ? known.person.id : (await em.findOne(Person, { email }))?.id;
    const member = person ? await em.findOne(Membership, { business, person }) : null;
    const now = new Date(runtime.now());
    if (!member) {
      if (newcomers === null)
        throw new Refusal(403, 'not-invited', 'You are not invited yet. Ask an owner of the business to invite you.');
      if (!person) {
        person = uuidv7();
        em.create(Person, { id: person, email, name: name || email, passwordHash: '', createdAt: now });
      }
      em.create(Membership, { id: uuidv7(), business, person, role: newcomers, testEmail: email });
    }
    if (!known) em.create(OuterIdentity, { issuer, subject, business, person: person!, createdAt: now });
    await em.flush();
    return person!;
  });
}
