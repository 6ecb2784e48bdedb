import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { hash, verify } from '@node-rs/argon2';
import { v7 as uuidv7 } from 'uuid';
import { homeCountries } from '../../core/message/may-text.ts';
import { businessKey } from '../../core/people/business-place.ts';
import { passwordWeakness } from '../../core/people/password-strength.ts';
import { localeOf } from '../../core/words/locale-of.ts';
import { Business, Membership, Person } from '../../db/entities/business.ts';
import type { Runtime } from '../../runtime.ts';
import { Refusal } from '../refusal.ts';
import { beginErrand } from './errands.ts';
import { countGuess, networkOf, tooMany, uncountGuesses } from './guesses.ts';
import { type From, noteSignIn, openSession, type SignInBy } from './session.ts';

/** Guesses in a quarter of an hour; past `SLOW_FROM` at one account each takes longer. */
const MOST = { both: 8, network: 40, setUp: 20 };
const SLOW_FROM = 20;
const SLOWEST_MS = 4000;

/** Argon2id with OWASP's minimum (19 MiB, 2 passes, 1 lane), which is the package's default. */
export const hashPassword = (password: string): Promise<string> => hash(password);
/** So that an unknown address takes as long as a wrong password. */
const NOBODY = hashPassword(randomBytes(16).toString('hex'));

/**
 * Whether this password is this person's, where guesses are counted: in anybody's name that is typed, from any network.
 *
 * @returns the person; null when the two do not belong together
 * @throws Refusal 429 `too-many` past the guesses a network has
 */
export async function provePassword(
  runtime: Runtime,
  input: { email: string; password: string; from: From },
): Promise<{ id: string; name: string; totp: string | null } | null> {
  const email = input.email.trim().toLowerCase();
  const network = networkOf(input.from.address);
  const keys = [`both:${email}:${network}`, `network:${network}`, `email:${email}`];
  const [both, fromNetwork, ofAccount] = (await Promise.all(keys.map((key) => countGuess(runtime, key)))) as [
    number,
    number,
    number,
  ];
  if (both > MOST.both || fromNetwork > MOST.network) throw tooMany();
  if (ofAccount > SLOW_FROM) await sleep(Math.min(SLOWEST_MS, (ofAccount - SLOW_FROM) * 200));
  const person = await runtime.orm.em.fork().findOne(Person, { email });
  // Whoever signs in elsewhere only has none.
  if (!(await verify(person?.passwordHash || (await NOBODY), input.password)) || !person?.passwordHash) {
    if (person) await noteSignIn(runtime, person.id, 'sign_in.failed', network);
    return null;
  }
  await uncountGuesses(runtime, keys);
  return { id: person.id, name: person.name, totp: person.totp ?? null };
}

const wrong = () =>
  new Refusal(401, 'wrong', 'This email and password do not belong together. Check both and try again.');

/** Signs somebody in to the business they were in last; whoever uses codes of their phone goes on with `second`. */
export async function signIn(
  runtime: Runtime,
  input: { email: string; password: string; from: From },
): Promise<{ cookie: string } | { second: string }> {
  const person = await provePassword(runtime, input);
  if (!person) throw wrong();
  if (person.totp !== null) return { second: await beginErrand(runtime, 'second', { person: person.id }) };
  return enter(runtime, person.id, input.from, 'password');
}

/** Lets somebody in who has proved who they are. */
export async function enter(
  runtime: Runtime,
  personId: string,
  from: From,
  how: SignInBy,
): Promise<{ cookie: string }> {
  const { rows } = await runtime.pool.query<{ id: string; shut: boolean }>(
    `select m.business_id as id, o.only is true and m.role <> 'owner' as shut from membership m left join sign_on o on o.business_id = m.business_id where m.person_id = $1
     order by (select max(s.used_at) from session s where s.person_id = m.person_id and s.business_id = m.business_id) desc nulls last, m.id`,
    [personId],
  );
  if (rows.length === 0)
    throw new Refusal(403, 'nowhere', 'You belong to no business any more. Ask whoever you worked with to invite you.');
  const open = rows.find(({ shut }) => !shut);
  if (!open)
    throw new Refusal(403, 'sign-on', 'Your business lets people in by its own sign-in only. Choose that below.');
  await noteSignIn(runtime, personId, 'sign_in', networkOf(from.address));
  return { cookie: await openSession(runtime, personId, open.id, from, how) };
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
export async function setUpWithCode(
  runtime: Runtime,
  input: FirstOwner,
  code: string,
  from: From,
): Promise<{ cookie: string }> {
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
  const weakness = passwordWeakness(input.password, [input.name, input.email, input.businessName]);
  if (weakness) throw new Refusal(422, 'password', weakness);
  return setUp(runtime, input, from);
}

export async function setUp(
  runtime: Runtime,
  input: FirstOwner,
  from: From = { address: '', userAgent: '' },
): Promise<{ cookie: string }> {
  const passwordHash = await hashPassword(input.password);
  const ids = await runtime.orm.em.fork().transactional(async (em) => {
    // Two first visits at once must not make two owners.
    await em.execute('select pg_advisory_xact_lock(4680)');
    if ((await em.count(Person)) > 0)
      throw new Refusal(409, 'already', 'Pine Bell is set up already. Sign in instead.');
    const now = new Date(runtime.now());
    const business = em.create(Business, {
      id: uuidv7(),
      key: businessKey(input.businessName, new Set()),
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
  return { cookie: await openSession(runtime, ids.person, ids.business, from) };
}
