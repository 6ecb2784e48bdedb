import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import type { Role } from '../../core/people/rights.ts';
import { deviceWords } from '../../core/words/device.ts';
import { Session, type SIGN_IN_BY } from '../../db/entities/business.ts';
import type { Runtime } from '../../runtime.ts';
import { type Actor, demandOneself } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { networkOf } from './guesses.ts';

/** How long a sign-in lasts. */
export const SESSION_DAYS = 14;
const DAY_MS = 86_400_000;

export type SignInBy = (typeof SIGN_IN_BY)[number];

/** Where somebody asks from. */
export interface From {
  /** Their network address. */
  address: string;
  /** The User-Agent header. */
  userAgent: string;
}

const sessionId = (token: string) => createHash('sha256').update(token).digest('base64url');
const seal = (runtime: Runtime, token: string) =>
  createHmac('sha256', runtime.secrets.derive('session')).update(token).digest('base64url');

/** Begins a sign-in and gives the value of its cookie. */
export async function openSession(
  runtime: Runtime,
  personId: string,
  businessId: string,
  from: From,
  how: SignInBy = 'password',
  within: string | null = null,
): Promise<string> {
  const em = runtime.orm.em.fork();
  const token = randomBytes(32).toString('base64url');
  const now = runtime.now();
  em.create(Session, {
    id: sessionId(token),
    publicId: uuidv7(),
    person: personId,
    business: businessId,
    createdAt: new Date(now),
    usedAt: new Date(now),
    provedAt: new Date(now),
    how,
    within,
    expiresAt: new Date(now + SESSION_DAYS * DAY_MS),
    device: deviceWords(from.userAgent),
    network: networkOf(from.address).slice(0, 60),
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

interface ActorRow {
  id: string;
  name: string;
  email: string;
  role: Role;
  leads_of: string[] | null;
  business_id: string;
  business_name: string;
  business_key: string;
  business_color: string;
  business_removed: boolean;
  several: boolean;
  /** Another business was used last. */
  elsewhere: boolean;
  country: string;
  locale: string;
  business_locale: string;
  time_zone: string;
  holidays: string[];
  practice: boolean;
  first_steps: Actor['firstSteps'];
  proved_at: Date;
  within: string | null;
  lacks_second: boolean;
  /** Its last use was noted over a minute ago, or elsewhere. */
  stale: boolean;
}

/** Where somebody asks: which business, by its key, and whether it is the one to come back to. */
export interface AskedIn {
  key: string | null;
  remember: boolean;
}

/**
 * Who asks, by their cookie; null for whoever is signed in nowhere, or not in the business that is named. Where none is named, it is the one they
 * were in last. With `from`, where the sign-in was used last is noted.
 */
export async function actorOf(
  runtime: Runtime,
  cookie: string | undefined,
  from?: From,
  { key, remember }: AskedIn = { key: null, remember: false },
): Promise<Actor | null> {
  const token = tokenOf(runtime, cookie);
  if (!token) return null;
  const network = from ? networkOf(from.address).slice(0, 60) : null;
  const { rows } = await runtime.pool.query<ActorRow>(
    `select p.id, p.name, p.email, m.role, leads_of(b.id, p.id) as leads_of, b.id as business_id, b.name as business_name, b.key as business_key, b.color as business_color, b.removed_at is not null as business_removed,
       s.within is null and (select count(*) from membership where person_id = p.id) > 1 as several, s.business_id <> b.id as elsewhere, b.country, coalesce(m.locale, b.locale) as locale, b.locale as business_locale, b.time_zone, b.holidays,
       b.practice is not null as practice, b.first_steps, s.proved_at, s.within, b.demands_second and s.how = 'password' as lacks_second, s.used_at < now() - interval '1 minute' or s.network <> $2 as stale
     from session s join person p on p.id = s.person_id
     join membership m on m.person_id = p.id join business b on b.id = m.business_id left join sign_on o on o.business_id = b.id
     where s.id = $1 and s.expires_at > now() and (s.within is null or s.within = b.id) and (o.only is not true or s.how = 'sign-on' or m.role = 'owner')
       and ($3::text is null or b.key = $3)
     order by b.removed_at is not null, b.id = s.business_id desc, b.created_at limit 1`,
    [sessionId(token), network, key],
  );
  const row = rows[0];
  if (!row) return null;
  if (network !== null && (row.stale || (remember && row.elsewhere)))
    await runtime.pool.query('update session set used_at = now(), network = $2, business_id = $3 where id = $1', [
      sessionId(token),
      network,
      row.business_id,
    ]);
  return {
    personId: row.id,
    name: row.name,
    email: row.email,
    role: row.role,
    leadsOf: row.leads_of,
    sessionId: sessionId(token),
    provedAt: row.proved_at.getTime(),
    lacksSecond: row.lacks_second,
    bySignOn: row.within !== null,
    businessId: row.business_id,
    businessName: row.business_name,
    businessKey: row.business_key,
    businessColor: row.business_color,
    businessRemoved: row.business_removed,
    several: row.several,
    country: row.country,
    locale: row.locale,
    businessLocale: row.business_locale,
    timeZone: row.time_zone,
    holidays: row.holidays,
    practice: row.practice,
    firstSteps: row.first_steps,
  };
}

/** In every business they belong to: whoever looks there sees who was let in, and who was not. */
export const noteSignIn = (
  runtime: Runtime,
  personId: string,
  action: 'sign_in' | 'sign_in.failed' | 'sign_out' | 'password.reset',
  network: string,
) =>
  runtime.pool.query(
    `insert into audit (id, business_id, person_id, at, action, subject, detail)
     select gen_random_uuid(), business_id, person_id, now(), $2, person_id::text, $3 from membership where person_id = $1`,
    [personId, action, JSON.stringify(network === '' ? {} : { network })],
  );

export async function signOut(runtime: Runtime, cookie: string | undefined): Promise<void> {
  const token = tokenOf(runtime, cookie);
  if (!token) return;
  const { rows } = await runtime.pool.query<{ person_id: string }>(
    'delete from session where id = $1 returning person_id',
    [sessionId(token)],
  );
  if (rows[0]) await noteSignIn(runtime, rows[0].person_id, 'sign_out', '');
}

export interface SessionView {
  id: string;
  device: string;
  /** The network address it was last used from. */
  network: string;
  usedAt: string;
  since: string;
  /** The one it is asked in. */
  here: boolean;
}

/** Where somebody is signed in, used last first. */
export async function listSessions({ db, actor }: Use): Promise<SessionView[]> {
  const { rows } = await db.query<{
    public_id: string;
    device: string;
    network: string;
    used_at: Date;
    created_at: Date;
    here: boolean;
  }>(
    `select public_id, device, network, used_at, created_at, id = $2 as here from session where person_id = $1 and expires_at > now() order by used_at desc limit 100`,
    [actor.personId, actor.sessionId],
  );
  return rows.map(({ public_id, device, network, used_at, created_at, here }) => ({
    ...{ id: public_id, device: device || 'An unknown device', network, here },
    ...{ usedAt: used_at.toISOString(), since: created_at.toISOString() },
  }));
}

/** Ends one of one's own sign-ins: that device has to sign in again. */
export async function endSession(tx: Write, id: string): Promise<void> {
  demandOneself(tx);
  const { rowCount } = await tx.db.query('delete from session where public_id = $1 and person_id = $2', [
    id,
    tx.actor.personId,
  ]);
  if (!rowCount) throw notHere('sign-in');
  tx.note('session.end', id);
}

/** Ends every sign-in of somebody but the one it is asked in. */
export async function endOtherSessions(tx: Write): Promise<{ ended: number }> {
  demandOneself(tx);
  const { rowCount } = await tx.db.query('delete from session where person_id = $1 and id <> $2', [
    tx.actor.personId,
    tx.actor.sessionId,
  ]);
  tx.note('session.end_others', tx.actor.personId, { ended: rowCount });
  return { ended: rowCount ?? 0 };
}
