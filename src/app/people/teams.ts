import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { Team } from '../../db/entities/business.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface TeamView {
  id: string;
  name: string;
  /** Ids of people. */
  people: string[];
}

export async function listTeams({ db, actor }: Use): Promise<TeamView[]> {
  const { rows } = await db.query<TeamView>(
    `select t.id, t.name, coalesce(array_agg(m.person_id order by m.person_id) filter (where m.id is not null), '{}') as people
     from team t left join team_member x on x.team_id = t.id left join membership m on m.id = x.membership_id where t.business_id = $1 group by t.id order by folded(t.name), t.id`,
    [actor.businessId],
  );
  return rows;
}

export const TeamInput = z.object({
  name: z.string().trim().min(1, 'Give the team a name').max(60),
  people: z.array(z.uuid()).max(500),
});

/** Puts exactly these people into a team. */
async function fill(tx: Write, teamId: string, people: readonly string[]): Promise<void> {
  await tx.db.query('delete from team_member where team_id = $1', [teamId]);
  const { rowCount } = await tx.db.query(
    `insert into team_member (team_id, membership_id) select $1, id from membership where business_id = $2 and person_id = any($3::uuid[])`,
    [teamId, tx.actor.businessId, people],
  );
  if (rowCount !== new Set(people).size)
    throw new Refusal(422, 'gone', 'Somebody of this team has left meanwhile. Look again.');
}

/** A team as a note says it: by the names people have now. */
async function teamSaid({ db, actor }: Write, id: string): Promise<{ name: string; people: string } | null> {
  const { rows } = await db.query<{ name: string; people: string }>(
    `select t.name, coalesce((select string_agg(p.name, ', ' order by p.name) from team_member m join membership o on o.id = m.membership_id join person p on p.id = o.person_id where m.team_id = t.id), '') as people
     from team t where t.id = $1 and t.business_id = $2`,
    [id, actor.businessId],
  );
  return rows[0] ?? null;
}

export async function makeTeam(tx: Write, { name, people }: z.infer<typeof TeamInput>): Promise<{ id: string }> {
  demand(tx.actor, 'people');
  const id = uuidv7();
  tx.em.create(Team, { id, business: tx.actor.businessId, name });
  await tx.em.flush();
  await fill(tx, id, people);
  tx.note('team.make', id, { name, before: {}, after: await teamSaid(tx, id) });
  return { id };
}

export async function changeTeam(tx: Write, id: string, { name, people }: z.infer<typeof TeamInput>): Promise<void> {
  demand(tx.actor, 'people');
  const before = await teamSaid(tx, id);
  if (!before) throw notHere('team');
  await tx.db.query('update team set name = $3 where id = $1 and business_id = $2', [id, tx.actor.businessId, name]);
  await fill(tx, id, people);
  tx.note('team.change', id, { name, before, after: await teamSaid(tx, id) });
}

export async function removeTeam(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'people');
  const { rows } = await tx.db.query<{ name: string }>(
    'delete from team where id = $1 and business_id = $2 returning name',
    [id, tx.actor.businessId],
  );
  if (!rows[0]) throw notHere('team');
  tx.note('team.remove', id, { name: rows[0].name });
}
