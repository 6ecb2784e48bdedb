import { v7 as uuidv7 } from 'uuid';
import type { z } from 'zod';
import { homeCountries } from '../../core/message/may-text.ts';
import { BUSINESS_KEY, type BusinessColor, businessKey, freeColor } from '../../core/people/business-place.ts';
import { mayDo, type Role } from '../../core/people/rights.ts';
import { localeOf } from '../../core/words/locale-of.ts';
import type { Db } from '../../db/db.ts';
import { Business, Membership } from '../../db/entities/business.ts';
import { demandOneself } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { BusinessInput } from './business-settings.ts';

/** Days a removed business can be put back. */
export const BUSINESS_BACK_DAYS = 14;
/** Businesses one person can have begun or belong to. */
const MOST = 200;

/** One of the businesses somebody belongs to, as the page of them all shows it. */
export interface MyBusiness {
  key: string;
  name: string;
  color: BusinessColor;
  role: Role;
  /** It asks its people to come in by its own service, and they have not. */
  bySignOn: boolean;
  /** When it was removed, ISO 8601, and when it is gone for good. */
  removed: { at: string; until: string } | null;
  leadsToday: number;
  /** Entries of *Needs you*; null for whoever does not see how things are set up. */
  needs: number | null;
  /** What is not working, in words: names of accounts and sources. */
  broken: string[];
}

interface Row {
  key: string;
  name: string;
  color: BusinessColor;
  role: Role;
  by_sign_on: boolean;
  /** It asks for more than a password, and that is all they have given. */
  lacks_second: boolean;
  removed_at: Date | null;
  leads: number;
  needs: number;
  broken: string[];
}

/** All businesses somebody belongs to: how each is doing today, by its own clock. Those that need somebody come first. */
export async function listMyBusinesses({ db, actor }: Pick<Use, 'db' | 'actor'>): Promise<MyBusiness[]> {
  const { rows } = await db.query<Row>(
    `select b.key, b.name, b.color, m.role, o.only is true and m.role <> 'owner' and s.how <> 'sign-on' as by_sign_on, b.demands_second and s.how = 'password' as lacks_second, b.removed_at,
       (select count(distinct l.id)::int from lead l join arrival a on a.lead_id = l.id join source r on r.id = a.source_id and r.kind not in ('import', 'list')
         where l.business_id = b.id and l.is_person and is_theirs(b.id, l.id, l.owner_id, leads_of(b.id, m.person_id))
           and l.created_at >= date_trunc('day', now() at time zone b.time_zone) at time zone b.time_zone) as leads,
       (select count(*)::int from needs_you n where n.business_id = b.id and n.settled_at is null) as needs,
       (select coalesce(array_agg(r.name order by r.name), '{}') from source r join pull p on p.source_id = r.id
         where r.business_id = b.id and r.removed_at is null and p.trouble_since is not null) as broken
     from membership m join business b on b.id = m.business_id join session s on s.id = $2 left join sign_on o on o.business_id = b.id
     where m.person_id = $1 and (s.within is null or s.within = b.id) order by b.name limit ${MOST + 50}`,
    [actor.personId, actor.sessionId],
  );
  const shown = rows.map((row): MyBusiness => {
    const shut = row.by_sign_on || row.lacks_second;
    const setup = !shut && mayDo(row.role, 'see-setup');
    return {
      ...{ key: row.key, name: row.name, color: row.color, role: row.role, bySignOn: row.by_sign_on },
      removed: row.removed_at && {
        at: row.removed_at.toISOString(),
        until: new Date(row.removed_at.getTime() + BUSINESS_BACK_DAYS * 86_400_000).toISOString(),
      },
      // Of one they cannot come into as they came, nothing is told.
      leadsToday: shut ? 0 : row.leads,
      needs: setup ? row.needs : null,
      broken: setup ? row.broken : [],
    };
  });
  const urgent = ({ removed, broken, needs }: MyBusiness) => (removed ? -1 : broken.length * 1000 + (needs ?? 0));
  return shown.sort((a, b) => urgent(b) - urgent(a) || a.name.localeCompare(b.name));
}

/** What the switch in the bar offers: the others one belongs to, by name. */
export async function otherBusinesses({ db, actor }: Use): Promise<{ key: string; name: string; color: string }[]> {
  if (!actor.several) return [];
  const { rows } = await db.query<{ key: string; name: string; color: string }>(
    `select b.key, b.name, b.color from membership m join business b on b.id = m.business_id
     where m.person_id = $1 and b.id <> $2 and b.removed_at is null order by b.name`,
    [actor.personId, actor.businessId],
  );
  return rows;
}

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/gi;

/** The key of the business an address that names none is meant for: the one that has what it names, else the one they were in last. */
export async function businessMeant({ db, actor }: Use, address: string): Promise<string> {
  const ids = [...new Set(address.match(ID)?.map((id) => id.toLowerCase()))];
  if (ids.length === 0) return actor.businessKey;
  const { rows } = await db.query<{ key: string }>(
    `select b.key from membership m join business b on b.id = m.business_id
     where m.person_id = $1 and b.removed_at is null and not exists (select from elsewhere(b.id, $3::uuid[]))
     order by b.id = $2 desc, b.name limit 1`,
    [actor.personId, actor.businessId, ids],
  );
  return rows[0]?.key ?? actor.businessKey;
}

export const NewBusiness = BusinessInput.pick({ name: true, country: true, timeZone: true });

/** Everybody who begins one waits here for the other: two of one name get two keys. */
const NAMING = 4681;

async function keyFor(db: Db, name: string): Promise<string> {
  await db.query('select pg_advisory_xact_lock($1)', [NAMING]);
  const key = businessKey(name, new Set());
  const { rows } = await db.query<{ key: string }>('select key from business where key like $1', [
    `${key.slice(0, 30)}%`,
  ]);
  return businessKey(name, new Set(rows.map((row) => row.key)));
}

/** Begins another business, whose owner is whoever asks: they must own one already. Its practice world is off, its pages are empty. */
export async function beginBusiness(tx: Write, input: z.infer<typeof NewBusiness>): Promise<{ key: string }> {
  demandOneself(tx);
  const { rows } = await tx.db.query<{ color: string; role: Role }>(
    'select b.color, m.role from membership m join business b on b.id = m.business_id where m.person_id = $1',
    [tx.actor.personId],
  );
  if (!rows.some(({ role }) => role === 'owner'))
    throw new Refusal(
      403,
      'not-allowed',
      'Only somebody who owns a business here can begin another. Ask an owner to begin it and to invite you.',
    );
  if (rows.length >= MOST) throw new Refusal(409, 'too-many', `One person belongs to ${MOST} businesses at most.`);
  const key = await keyFor(tx.db, input.name);
  const business = tx.em.create(Business, {
    ...{ id: uuidv7(), key, color: freeColor(rows.map(({ color }) => color)) },
    ...{ name: input.name, country: input.country, locale: localeOf(input.country), timeZone: input.timeZone },
    ...{ textCountries: homeCountries(input.country), createdAt: new Date(tx.runtime.now()) },
  });
  tx.em.create(Membership, {
    ...{ id: uuidv7(), business, person: tx.actor.personId, role: 'owner', testEmail: tx.actor.email },
  });
  // On its own trail: the others are no business of whoever works there.
  tx.note('business.begin', business.id, { name: input.name }, business.id);
  return { key };
}

/** The business of somebody's that has this key, and what they are there; whoever is not in it is told no more than that. */
export async function ofMine(
  { db, actor }: Pick<Use, 'db' | 'actor'>,
  key: string,
): Promise<{ id: string; name: string; role: Role; removed: boolean }> {
  const { rows } = BUSINESS_KEY.test(key)
    ? await db.query<{ id: string; name: string; role: Role; removed: boolean }>(
        `select b.id, b.name, m.role, b.removed_at is not null as removed from membership m join business b on b.id = m.business_id
         join session s on s.id = $3 where m.person_id = $1 and b.key = $2 and (s.within is null or s.within = b.id)`,
        [actor.personId, key, actor.sessionId],
      )
    : { rows: [] };
  if (!rows[0]) throw new Refusal(404, 'not-here', 'You belong to no business of this name.');
  return rows[0];
}
