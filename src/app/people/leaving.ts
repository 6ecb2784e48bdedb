import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Definition } from '../../core/workflow/definition.ts';
import { handOverIn } from '../../core/workflow/hand-over.ts';
import { Workflow, WorkflowVersion } from '../../db/entities/workflow.ts';
import { demandProof } from '../account/proof.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { moveOn } from '../workflows/live.ts';
import { workflowsNaming } from '../workflows/used-by.ts';
import { membershipOf } from './people.ts';

export interface Leaving {
  name: string;
  leads: number;
  tasks: number;
  conversations: number;
  appointments: number;
  /** Sources whose bookings go into their calendar. */
  bookings: string[];
  /** Workflows that name them: whom they tell, ask, assign, and whose turn it is. */
  workflows: string[];
}

/** What somebody has in hand, before they leave. */
export async function lookAtLeaving(use: Use, personId: string): Promise<Leaving> {
  demand(use.actor, 'people');
  const { rows } = await use.db.query<Omit<Leaving, 'workflows'>>(
    `select p.name,
       (select count(*)::int from lead where business_id = $1 and owner_id = $2 and is_person) as leads,
       (select count(*)::int from task where business_id = $1 and colleague_id = $2 and done_at is null) as tasks,
       (select count(*)::int from conversation where business_id = $1 and (assignee_id = $2 or taken_by_id = $2) and done_at is null) as conversations,
       (select count(*)::int from calendar_entry where business_id = $1 and colleague_id = $2 and ends_at > now()) as appointments,
       array(select name from source where business_id = $1 and removed_at is null and settings ->> 'colleagueId' = $2::text order by name) as bookings
     from membership m join person p on p.id = m.person_id where m.business_id = $1 and m.person_id = $2`,
    [use.actor.businessId, personId],
  );
  if (!rows[0]) throw notHere('person');
  return { ...rows[0], workflows: (await workflowsNaming(use, [personId])).get(personId) ?? [] };
}

export const LeaveInput = z.object({
  /** Who takes over what they have in hand; null for nobody: leads without a name to them, tasks for whoever is free. */
  to: z.uuid().nullable(),
});

/**
 * Somebody has left: in one step all they had in hand is another's, and every sign-in of theirs to this business is ended. What they did stays in their name.
 */
export async function letLeave(tx: Write, personId: string, { to }: z.infer<typeof LeaveInput>): Promise<void> {
  const self = personId === tx.actor.personId;
  if (!self) demand(tx.actor, 'people');
  demandProof(tx);
  const { id, name, lastOwner } = await membershipOf(tx, personId);
  if (lastOwner) throw new Refusal(409, 'last-owner', `${name} is the only owner. Make somebody else an owner first.`);
  if (to === personId) throw new Refusal(422, 'same', 'Choose somebody else to take over.');
  const heir = to === null ? null : await membershipOf(tx, to);
  const { businessId } = tx.actor;
  const values = [businessId, personId, to];
  for (const statement of [
    'update lead set owner_id = $3 where business_id = $1 and owner_id = $2',
    'update task set colleague_id = $3 where business_id = $1 and colleague_id = $2 and done_at is null',
    'update conversation set assignee_id = $3 where business_id = $1 and assignee_id = $2 and done_at is null',
    // Without an heir the workflows of those leads go on: nobody would ever hand them back.
    'update conversation set taken_by_id = $3, taken_at = case when $3::uuid is null then null else taken_at end where business_id = $1 and taken_by_id = $2',
    `update source set settings = settings || jsonb_build_object('colleagueId', $3::uuid) where business_id = $1 and settings ->> 'colleagueId' = $2::text`,
  ])
    await tx.db.query(statement, values);
  // Their own calendar is nobody else's.
  await tx.db.query('delete from own_calendar where business_id = $1 and colleague_id = $2', [businessId, personId]);
  if (to !== null)
    await tx.db.query(
      'update calendar_entry set colleague_id = $3 where business_id = $1 and colleague_id = $2 and ends_at > now()',
      values,
    );
  const workflows = await handOverWorkflows(tx, personId, to);
  await tx.db.query('delete from push_device where business_id = $1 and person_id = $2', [businessId, personId]);
  await tx.db.query('delete from session where business_id = $1 and person_id = $2', [businessId, personId]);
  await tx.db.query('delete from membership where id = $1', [id]);
  tx.note('person.leave', personId, { name, to: heir?.name ?? null, workflows });
  tx.forget();
  tx.ring();
}

/** In every workflow that names somebody, the draft and what is live name another from now on; what waits goes on with that. Gives their names. */
async function handOverWorkflows(tx: Write, from: string, to: string | null): Promise<string[]> {
  const { rows } = await tx.db.query<{ id: string }>(
    `select w.id from workflow w left join workflow_version v on v.id = w.live_version_id where w.business_id = $1
       and (strpos(w.draft::text, $2) > 0 or strpos(coalesce(v.definition::text, ''), $2) > 0) order by w.id for update of w`,
    [tx.actor.businessId, from],
  );
  const names: string[] = [];
  for (const { id } of rows) {
    const w = await tx.em.findOneOrFail(Workflow, { id }, { filters: { present: false } });
    names.push(w.name);
    const asLive = w.liveRevision === w.revision;
    w.draft = handOverIn<Definition>(w.draft, from, to);
    w.revision += 1;
    const live = w.liveVersionId ? await tx.em.findOne(WorkflowVersion, { id: w.liveVersionId }) : null;
    if (!live) continue;
    const [last] = (await tx.em.execute(
      'select max(number)::int as number from workflow_version where workflow_id = ?',
      [id],
    )) as [{ number: number }];
    const made = tx.em.create(WorkflowVersion, {
      ...{ id: uuidv7(), business: tx.actor.businessId, workflow: id, number: last.number + 1 },
      definition: handOverIn<Definition>(live.definition, from, to),
      ...{ putLiveBy: tx.actor.personId, putLiveAt: new Date() },
    });
    if (asLive) w.liveRevision = w.revision;
    w.liveVersionId = made.id;
    await tx.em.flush();
    await tx.em.execute('update listening set version_id = ? where workflow_id = ?', [made.id, id]);
    await moveOn(tx, id, made.id, made.definition);
  }
  await tx.em.flush();
  return names;
}
