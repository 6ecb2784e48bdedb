import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { v7 as uuidv7 } from 'uuid';
import { Business, Membership, Person, Session, SignInFailure } from '../db/entities/business.ts';
import type { Runtime } from '../runtime.ts';
import { type Actor, Refusal } from './actor.ts';

/** How long a sign-in lasts. */
export const SESSION_DAYS = 14;
const DAY_MS = 86_400_000;
/** Failed sign-ins allowed within the window, per email address and per network address. Common practice, no source. */
const WINDOW_MS = 15 * 60_000;
const MOST_FAILURES = { email: 8, network: 40 };
export const SHORTEST_PASSWORD = 10;

/** Argon2id with OWASP's minimum (19 MiB, 2 passes, 1 lane), which is the package's default. */
export const hashPassword = (password: string): Promise<string> => hash(password);
/** So that an unknown address takes as long as a wrong password. */
const NOBODY = hashPassword(randomBytes(16).toString('hex'));

const sessionId = (token: string) => createHash('sha256').update(token).digest('base64url');
const seal = (runtime: Runtime, token: string) =>
  createHmac('sha256', runtime.secrets.derive('session')).update(token).digest('base64url');

export async function signIn(
  runtime: Runtime,
  input: { email: string; password: string; network: string },
): Promise<{ cookie: string }> {
  const em = runtime.orm.em.fork();
  const email = input.email.trim().toLowerCase();
  const since = new Date(runtime.now() - WINDOW_MS);
  const [byEmail, byNetwork] = await Promise.all([
    em.count(SignInFailure, { key: `email:${email}`, at: { $gt: since } }),
    em.count(SignInFailure, { key: `network:${input.network}`, at: { $gt: since } }),
  ]);
  if (byEmail >= MOST_FAILURES.email || byNetwork >= MOST_FAILURES.network)
    throw new Refusal(429, 'too-many', 'Too many sign-ins that failed. Wait a quarter of an hour and try again.');
  const person = await em.findOne(Person, { email });
  const good = await verify(person?.passwordHash ?? (await NOBODY), input.password);
  const membership = person && good ? await em.findOne(Membership, { person }, { orderBy: { id: 'asc' } }) : null;
  if (!person || !membership) {
    for (const key of [`email:${email}`, `network:${input.network}`])
      em.create(SignInFailure, { id: uuidv7(), key: key.slice(0, 255), at: new Date(runtime.now()) });
    await em.flush();
    throw new Refusal(401, 'wrong', 'This email and password do not belong together. Check both and try again.');
  }
  return { cookie: await openSession(runtime, person.id, membership.business.id) };
}

async function openSession(runtime: Runtime, personId: string, businessId: string): Promise<string> {
  const em = runtime.orm.em.fork();
  const token = randomBytes(32).toString('base64url');
  const now = runtime.now();
  em.create(Session, {
    id: sessionId(token),
    person: personId,
    business: businessId,
    createdAt: new Date(now),
    expiresAt: new Date(now + SESSION_DAYS * DAY_MS),
  });
  await em.flush();
  return `${token}.${seal(runtime, token)}`;
}

/** The token of a cookie whose signature is ours; a forged one costs no look into the database. */
function tokenOf(runtime: Runtime, cookie: string | undefined): string | null {
  const [token, given] = cookie?.split('.') ?? [];
  if (!token || !given) return null;
  const expected = Buffer.from(seal(runtime, token));
  const told = Buffer.from(given);
  return told.length === expected.length && timingSafeEqual(told, expected) ? token : null;
}

export async function actorOf(runtime: Runtime, cookie: string | undefined): Promise<Actor | null> {
  const token = tokenOf(runtime, cookie);
  if (!token) return null;
  const { rows } = await runtime.pool.query(
    `select p.id, p.name, p.email, m.role, b.id as business_id, b.name as business_name, b.country, b.locale, b.time_zone, b.holidays
     from session s join person p on p.id = s.person_id join business b on b.id = s.business_id
     join membership m on m.person_id = p.id and m.business_id = b.id where s.id = $1 and s.expires_at > now()`,
    [sessionId(token)],
  );
  const row = rows[0];
  if (!row) return null;
  return {
    personId: row.id,
    name: row.name,
    email: row.email,
    role: row.role,
    businessId: row.business_id,
    businessName: row.business_name,
    country: row.country,
    locale: row.locale,
    timeZone: row.time_zone,
    holidays: row.holidays,
  };
}

export async function signOut(runtime: Runtime, cookie: string | undefined): Promise<void> {
  const token = tokenOf(runtime, cookie);
  if (token) await runtime.pool.query('delete from session where id = $1', [sessionId(token)]);
}

export async function isSetUp(runtime: Runtime): Promise<boolean> {
  const { rows } = await runtime.pool.query('select 1 from person limit 1');
  return rows.length > 0;
}

export interface FirstOwner {
  businessName: string;
  country: string;
  timeZone: string;
  name: string;
  email: string;
  password: string;
}

/** The first visit: makes the business and its owner. Refused once anybody is here. */
export async function setUp(runtime: Runtime, input: FirstOwner): Promise<{ cookie: string }> {
  if (input.password.length < SHORTEST_PASSWORD)
    throw new Refusal(422, 'password', `Choose a password of at least ${SHORTEST_PASSWORD} characters.`);
  const passwordHash = await hashPassword(input.password);
  const ids = await runtime.orm.em.fork().transactional(async (em) => {
    // Two first visits at once must not make two owners.
    await em.execute('select pg_advisory_xact_lock(4680)');
    if ((await em.count(Person)) > 0)
      throw new Refusal(409, 'already', 'Pine Bell is set up already. Sign in instead.');
    const now = new Date(runtime.now());
    const business = em.create(Business, {
      id: uuidv7(),
      name: input.businessName,
      country: input.country,
      locale: 'en-GB',
      timeZone: input.timeZone,
      createdAt: now,
    });
    const person = em.create(Person, {
      id: uuidv7(),
      email: input.email.trim().toLowerCase(),
      name: input.name,
      passwordHash,
      createdAt: now,
    });
    em.create(Membership, { id: uuidv7(), business, person, role: 'owner', testEmail: input.email.trim() });
    return { business: business.id, person: person.id };
  });
  return { cookie: await openSession(runtime, ids.person, ids.business) };
}
