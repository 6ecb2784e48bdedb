import type { FilterQuery } from '@mikro-orm/postgresql';
import { Connection, type IConnection } from '../../db/entities/connection.ts';
import { NurtureList } from '../../db/entities/nurture.ts';
import type { ISource } from '../../db/entities/source.ts';
import { SENDING_STEPS } from '../account/connection-uses.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { findSource } from '../sources/sources.ts';
import type { Use, Write } from '../use.ts';
import { workflowsNaming } from './used-by.ts';
import { findWorkflow } from './workflows.ts';

/*
 * Removing: what still uses a thing is named first. Then it is gone from every choice and page of its own, while everything it
 * did, every arrival, run, message and membership, stays where it is and goes on naming it.
 */

const workflow = (name: string) => `the workflow “${name}”`;

/** Refuses while something uses it, and says what: "“Spring fair” is still used by the workflow “Trial lesson”. Take it out there first." */
export function refuseIfUsed(name: string, uses: string[]): void {
  if (uses.length > 0)
    throw new Refusal(
      409,
      'in-use',
      `“${name}” is still used by ${new Intl.ListFormat('en').format([...new Set(uses)])}. Take it out there first.`,
      { uses },
    );
}

const naming = async (use: Use, id: string): Promise<string[]> =>
  ((await workflowsNaming(use, [id])).get(id) ?? []).map(workflow);

/** A source nothing listens to any more. Its address ends at once; what came in by it stays. */
export async function removeSource(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const source = await findSource(tx, id);
  if (source.kind === 'list') throw notHere('source');
  refuseIfUsed(source.name, await naming(tx, id));
  await endSource(tx, source);
}

/** The same whoever names it: for what goes as a whole. */
export async function endSource(tx: Write, source: ISource): Promise<void> {
  const { id } = source;
  Object.assign(source, { state: 'paused', removedAt: new Date(tx.runtime.now()) });
  tx.note('source.remove', id, { name: source.name });
  await tx.em.flush();
  await tx.db.query(
    'update needs_you set settled_at = now(), settled_by_id = $2 where source_id = $1 and settled_at is null',
    [id, tx.actor.personId],
  );
  tx.forget();
}

/** An account of a service. Answers and reports of what went out by it are still taken: a STOP is never lost. */
export async function removeConnection(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'keys');
  const connection = await tx.em.findOne(Connection, { id, business: tx.actor.businessId });
  if (!connection) throw notHere('connection');
  refuseIfUsed(connection.name, [...(await usesNow(tx, connection, { id: { $ne: id } })), ...(await naming(tx, id))]);
  endConnection(tx, connection);
}

/**
 * What would stop without it, unless another account of its kind is among `rest`. With `goesAlong` its sources and the messages that wait for it do not
 * count: they go with it.
 */
async function usesNow(
  tx: Write,
  { id, kind }: IConnection,
  rest: FilterQuery<IConnection>,
  goesAlong = false,
): Promise<string[]> {
  const others = await tx.em.count(Connection, { $and: [{ business: tx.actor.businessId, kind }, rest] });
  const { rows } = await tx.db.query<{ name: string }>(
    `select 'the source “' || name || '”' as name from source where business_id = $1 and removed_at is null and settings ->> 'connectionId' = $2 and not $5
     union select 'the workflow “' || w.name || '”' from workflow w join workflow_version v on v.id = w.live_version_id
       where w.business_id = $1 and w.state = 'live' and jsonb_path_exists(v.definition, '$.moments[*].**.kind ? (@ == $kinds[*])', jsonb_build_object('kinds', $3::jsonb))
     union select 'the calendar “' || o.name || '” of ' || p.name from own_calendar o join person p on p.id = o.colleague_id where o.business_id = $1 and o.connection_id::text = $2 and not $5
     union select 'the front door' from connection where id::text = $2 and settings #>> '{frontDoor,on}' = 'true'
     union select 'a one-off email that is on its way' from mailing m where m.business_id = $1 and m.state in ('planning', 'trying') and $4
     union select 'messages that wait to go out' from delivery where connection_id::text = $2 and state = 'sending' and not $5 order by 1`,
    [
      tx.actor.businessId,
      id,
      JSON.stringify(others === 0 ? (SENDING_STEPS[kind] ?? []) : []),
      kind === 'mail_server' && others === 0,
      goesAlong,
    ],
  );
  return rows.map((row) => row.name);
}

function endConnection(tx: Write, connection: IConnection): void {
  // Its key goes when it can no longer be put back (worker/housekeeping.ts).
  connection.removedAt = new Date(tx.runtime.now());
  tx.note('connection.remove', connection.id, { name: connection.name, kind: connection.kind });
  tx.forget();
}

/** Accounts that go together with their sources and what waits for them: refused where something else cannot go on by those that stay. */
export async function refuseWhileUsed(tx: Write, connections: readonly IConnection[]): Promise<void> {
  const rest = { id: { $nin: connections.map(({ id }) => id) } };
  for (const connection of connections) refuseIfUsed(connection.name, await usesNow(tx, connection, rest, true));
}

/** Ends them; whether anything needs them was asked before. */
export function removeAccounts(tx: Write, connections: readonly IConnection[]): void {
  for (const connection of connections) endConnection(tx, connection);
}

/** A workflow that is not live. Who is still on their way in it is told first, and ends there; its log stays. */
export async function removeWorkflow(tx: Write, id: string, agreed: boolean): Promise<void> {
  demand(tx.actor, 'build');
  const found = await findWorkflow(tx, id);
  if (found.state === 'live')
    throw new Refusal(409, 'live', `“${found.name}” is live. Pause it first; then it can be removed.`);
  const others = (await naming(tx, id)).filter((name) => name !== workflow(found.name));
  refuseIfUsed(found.name, others);
  const underWay = await tx.db.query('select from run where workflow_id = $1 and due_at is not null', [id]);
  const n = underWay.rowCount ?? 0;
  if (n > 0 && !agreed)
    throw new Refusal(
      409,
      'under-way',
      `${n === 1 ? 'One lead is' : `${n} leads are`} still on their way in “${found.name}”. Removed, it sends them nothing more.`,
    );
  await tx.db.query(
    `with ended as (
       update run r set state = case when r.state = 'needs_you' then r.state else 'stopped' end, due_at = null, finished_at = now(), waits_for = null,
         outcome = 'Stopped: the workflow was removed'
       where r.workflow_id = $1 and r.due_at is not null and r.lease_by is null returning r.id)
     update delivery d set state = 'refused', detail = 'Not sent: the workflow was removed' from ended
     where d.run_id = ended.id and d.state = 'sending' and d.due_at is null`,
    [id],
  );
  const still = await tx.db.query('select from run where workflow_id = $1 and due_at is not null', [id]);
  if (still.rowCount)
    throw new Refusal(409, 'at-work', 'Somebody is being answered by it this very moment. Try again in a few seconds.');
  // Only as it was looked at: a colleague may have put it live meanwhile.
  const { rowCount } = await tx.db.query(
    `update workflow set removed_at = $2 where id = $1 and state <> 'live' and removed_at is null`,
    [id, new Date(tx.runtime.now())],
  );
  if (!rowCount) throw new Refusal(409, 'changed', 'A colleague has just changed it. Look at it again first.');
  tx.note('workflow.remove', id, { name: found.name, endedRuns: n });
  tx.forget();
}

/** A list nothing writes to any more. Who was on it, and what they agreed to, stays with the leads. */
export async function removeList(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const list = await tx.em.findOne(NurtureList, { id, business: tx.actor.businessId }, { populate: ['source'] });
  if (!list) throw notHere('list');
  const source = list.source?.unwrap() ?? null;
  const { rows } = await tx.db.query<{ name: string }>(
    `select 'the segment “' || name || '”' as name from segment where business_id = $1 and removed_at is null and strpos(condition::text, $2) > 0
     union all select 'a one-off email that is on its way' from mailing where business_id = $1 and state in ('planning', 'trying') and strpos(audience::text, $2) > 0
     union all select 'work on many leads' from bulk_work where business_id = $1 and state = 'running' and strpos(choice::text, $2) > 0`,
    [tx.actor.businessId, id],
  );
  refuseIfUsed(list.name, [
    ...(await naming(tx, id)),
    ...(source ? await naming(tx, source.id) : []),
    ...rows.map((row) => row.name),
  ]);
  const removedAt = new Date(tx.runtime.now());
  list.removedAt = removedAt;
  if (source) Object.assign(source, { removedAt, state: 'paused' });
  tx.note('list.remove', id, { name: list.name });
  tx.forget();
}
