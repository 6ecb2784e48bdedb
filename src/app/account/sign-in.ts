import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { hash, verify } from '@node-rs/argon2';
import ipaddr from 'ipaddr.js';
import { v7 as uuidv7 } from 'uuid';
import { homeCountries } from '../../core/message/may-text.ts';
import { localeOf } from '../../core/words/locale-of.ts';
import { Business, Membership, Person, Session } from '../../db/entities/business.ts';
import type { Runtime } from '../../runtime.ts';
import type { Actor } from '../actor.ts';
import { Refusal } from '../refusal.ts';

/** How long a sign-in lasts. */
export const SESSION_DAYS = 14;
const DAY_MS = 86_400_000;

/**
 * Guesses within the window, counted before anything is compared: by account and network together, by network alone, and at the set-up. Common
 * practice, no source. By account alone nobody is shut out, or anybody could shut out whom they like: past `SLOW_FROM` each guess takes longer.
 */
const WINDOW = '15 minutes';
const MOST = { both: 8, network: 40, setUp: 20 };
const SLOW_FROM = 20;
const SLOWEST_MS = 4000;
export const SHORTEST_PASSWORD = 10;

/** Argon2id with OWASP's minimum (19 MiB, 2 passes, 1 lane), which is the package's default. */
export const hashPassword = (password: string): Promise<string> => hash(password);
/** So that an unknown address takes as long as a wrong password. */
const NOBODY = hashPassword(randomBytes(16).toString('hex'));

const sessionId = (token: string) => createHash('sha256').update(token).digest('base64url');
const seal = (runtime: Runtime, token: string) =>
  createHmac('sha256', runtime.secrets.derive('session')).update(token).digest('base64url');

/** Counts a guess and says how many there were in its window, in one statement: of many at once each sees another number. */
async function countGuess(runtime: Runtime, key: string): Promise<number> {
  const { rows } = await runtime.pool.query<{ guesses: number }>(
    `insert into guess (key, guesses, since) values ($1, 1, now()) on conflict (key) do update
     set guesses = case when guess.since < now() - interval '${WINDOW}' then 1 else guess.guesses + 1 end,
         since = case when guess.since < now() - interval '${WINDOW}' then now() else guess.since end
     returning guesses`,
    [createHash('sha256').update(key).digest('base64url')],
  );
  return rows[0]!.guesses;
}

/** A guess that was right was none. */
const uncountGuesses = (runtime: Runtime, keys: string[]) =>
  runtime.pool.query('update guess set guesses = guesses - 1 where key = any($1) and guesses > 0', [
    keys.map((key) => createHash('sha256').update(key).digest('base64url')),
  ]);

/** IPv6 networks are given out by 64 bits and more (RFC 6177): all addresses of one are one guesser. */
const networkOf = (address: string): string => {
  if (!ipaddr.isValid(address)) return address;
  const read = ipaddr.process(address);
  return read.kind() === 'ipv6' ? read.toNormalizedString().split(':').slice(0, 4).join(':') : read.toString();
};

const tooMany = () =>
  new Refusal(429, 'too-many', 'Too many sign-ins that failed. Wait a quarter of an hour and try again.');

export async function signIn(
  runtime: Runtime,
  input: { email: string; password: string; network: string },
): Promise<{ cookie: string }> {
  const em = runtime.orm.em.fork();
  const email = input.email.trim().toLowerCase();
  const network = networkOf(input.network);
  const keys = [`both:${email}:${network}`, `network:${network}`, `email:${email}`];
  const [both, fromNetwork, ofAccount] = (await Promise.all(keys.map((key) => countGuess(runtime, key)))) as [
    number,
    number,
    number,
  ];
  if (both > MOST.both || fromNetwork > MOST.network) throw tooMany();
  if (ofAccount > SLOW_FROM) await sleep(Math.min(SLOWEST_MS, (ofAccount - SLOW_FROM) * 200));
  const person = await em.findOne(Person, { email });
  const good = await verify(person?.passwordHash ?? (await NOBODY), input.password);
  const membership = person && good ? await em.findOne(Membership, { person }, { orderBy: { id: 'asc' } }) : null;
  if (!person || !membership) {
    if (person) await noteSignIn(runtime, person.id, 'sign_in.failed', network);
    throw new Refusal(401, 'wrong', 'This email and password do not belong together. Check both and try again.');
  }
  await uncountGuesses(runtime, keys);
  await noteSignIn(runtime, person.id, 'sign_in', network);
  return { cookie: await openSession(runtime, person.id, membership.business.id) };
}

/** In every business they belong to: whoever looks there sees who was let in, and who was not. */
const noteSignIn = (
  runtime: Runtime,
  personId: string,
  action: 'sign_in' | 'sign_in.failed' | 'sign_out',
  network: string,
) =>
  runtime.pool.query(
    `insert into audit (id, business_id, person_id, at, action, subject, detail)
     select gen_random_uuid(), business_id, person_id, now(), $2, person_id::text, $3 from membership where person_id = $1`,
    [personId, action, JSON.stringify(network === '' ? {} : { network })],
  );

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
    `select p.id, p.name, p.email, m.role, b.id as business_id, b.name as business_name, b.country, b.locale, b.time_zone, b.holidays, b.practice is not null as practice, b.first_steps
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
    practice: row.practice,
    firstSteps: row.first_steps,
  };
}

export async function signOut(runtime: Runtime, cookie: string | undefined): Promise<void> {
  const token = tokenOf(runtime, cookie);
  if (!token) return;
  const { rows } = await runtime.pool.query<{ person_id: string }>(
    'delete from session where id = $1 returning person_id',
    [sessionId(token)],
  );
  if (rows[0]) await noteSignIn(runtime, rows[0].person_id, 'sign_out', '');
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

/**
 * What whoever started this copy reads in its console, and nobody else: with it the first owner is made. Made from the key of the installation, so
 * that every process of ours knows the same one; of no use once anybody is here.
 */
export function setUpCode(runtime: Runtime): string {
  const letters = 'ABCDEFGHJKMNPQRSTVWXYZ23456789';
  const bytes = createHmac('sha256', runtime.secrets.derive('set-up')).update('first owner').digest();
  const code = Array.from(bytes.subarray(0, 12), (byte) => letters[byte % letters.length]).join('');
  return `${code.slice(0, 4)}-${code.slice(4, 8)}-${code.slice(8)}`;
}

/** The first visit: makes the business and its owner. Refused to whoever has not read the console, and once anybody is here. */
export async function setUpWithCode(runtime: Runtime, input: FirstOwner, code: string): Promise<{ cookie: string }> {
  const plain = (text: string) =>
    createHash('sha256')
      .update(text.toUpperCase().replace(/[^A-Z0-9]/g, ''))
      .digest();
  if ((await countGuess(runtime, 'set-up')) > MOST.setUp) throw tooMany();
  if (!timingSafeEqual(plain(code), plain(setUpCode(runtime))))
    throw new Refusal(
      403,
      'code',
      'This is not the set-up code. It stands in the console in which Pine Bell was started.',
    );
  await uncountGuesses(runtime, ['set-up']);
  return setUp(runtime, input);
}

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
      locale: localeOf(input.country),
      timeZone: input.timeZone,
      textCountries: homeCountries(input.country),
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
