import { z } from 'zod';
import { ROLES, type Role, WHOSE_LEADS, type WhoseLeads, whoseLeads } from '../../core/people/rights.ts';
import { demandProof } from '../account/proof.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface PersonView {
  id: string;
  name: string;
  email: string;
  role: Role;
  whoseLeads: WhoseLeads;
  /** Ids of teams. */
  teams: string[];
  /** Takes no turns until then; null while they do. */
  awayUntil: string | null;
  /** When they were here last; null when never, or too long ago. */
  seenAt: string | null;
}

/** Everybody of the business, by name. */
export async function listPeople({ db, actor }: Use): Promise<PersonView[]> {
  const { rows } = await db.query<
    Omit<PersonView, 'whoseLeads' | 'awayUntil' | 'seenAt'> & {
      whose_leads: WhoseLeads;
      away_until: Date | null;
      seen_at: Date | null;
    }
  >(
    `select p.id, p.name, p.email, m.role, m.whose_leads, m.away_until, array(select x.team_id::text from team_member x where x.membership_id = m.id) as teams,
       (select max(s.used_at) from session s where s.person_id = p.id and s.business_id = m.business_id) as seen_at
     from membership m join person p on p.id = m.person_id where m.business_id = $1 order by folded(p.name), p.id`,
    [actor.businessId],
  );
  return rows.map(({ whose_leads, away_until, seen_at, ...row }) => ({
    ...row,
    whoseLeads: whose_leads,
    awayUntil: away_until?.toISOString() ?? null,
    seenAt: seen_at?.toISOString() ?? null,
  }));
}

/** A membership of this business, and the only owner there is: both locked, so that of two owners who leave at once one stays. */
export async function membershipOf(
  tx: Write,
  personId: string,
): Promise<{ id: string; name: string; role: Role; lastOwner: boolean }> {
  const { rows } = await tx.db.query<{ id: string; person_id: string; name: string; role: Role }>(
    `select m.id, m.person_id, p.name, m.role from membership m join person p on p.id = m.person_id
     where m.business_id = $1 and (m.role = 'owner' or m.person_id = $2) order by m.id for update of m`,
    [tx.actor.businessId, personId],
  );
  const found = rows.find((row) => row.person_id === personId);
  if (!found) throw notHere('person');
  const { id, name, role } = found;
  return { id, name, role, lastOwner: role === 'owner' && rows.filter((row) => row.role === 'owner').length === 1 };
}

export const PersonChange = z.object({
  role: z.enum(ROLES),
  whoseLeads: z.enum(WHOSE_LEADS),
  teams: z.array(z.uuid()).max(50),
});

/** Says what somebody may do here, whose leads they work with, and which teams they are in. */
export async function changePerson(tx: Write, personId: string, input: z.infer<typeof PersonChange>): Promise<void> {
  demand(tx.actor, 'people');
  demandProof(tx);
  const before = (await listPeople(tx)).find((person) => person.id === personId);
  const { id, name, lastOwner } = await membershipOf(tx, personId);
  if (lastOwner && input.role !== 'owner')
    throw new Refusal(
      409,
      'last-owner',
      `${name} is the only owner. Make somebody else an owner first: a business without one could never be changed again.`,
    );
  await tx.db.query('update membership set role = $2, whose_leads = $3 where id = $1', [
    ...[id, input.role, whoseLeads(input.role, input.whoseLeads)],
  ]);
  await tx.db.query('delete from team_member where membership_id = $1', [id]);
  const { rowCount } = await tx.db.query(
    'insert into team_member (team_id, membership_id) select id, $2 from team where business_id = $1 and id = any($3::uuid[])',
    [tx.actor.businessId, id, input.teams],
  );
  if (rowCount !== new Set(input.teams).size)
    throw new Refusal(422, 'team', 'One of these teams is no longer there. Choose again.');
  const whose = whoseLeads(input.role, input.whoseLeads);
  const { rows: teams } = await tx.db.query<{ id: string; name: string }>(
    'select id, name from team where business_id = $1',
    [tx.actor.businessId],
  );
  const named = (ids: readonly string[]) =>
    teams
      .flatMap(({ id, name }) => (ids.includes(id) ? [name] : []))
      .sort()
      .join(', ');
  tx.note('person.change', personId, {
    name,
    before: before && { role: before.role, whoseLeads: before.whoseLeads, teams: named(before.teams) },
    after: { role: input.role, whoseLeads: whose, teams: named(input.teams) },
  });
  tx.forget();
  tx.ring();
}
