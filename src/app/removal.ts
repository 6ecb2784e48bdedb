import { randomBytes } from 'node:crypto';
import { Connection, type ConnectionKind } from '../db/entities/connection.ts';
import { NurtureList } from '../db/entities/nurture.ts';
import { Pull } from '../db/entities/source.ts';
import { inTransaction } from '../db/in-transaction.ts';
import { audit, demand, notHere, Refusal, type Use } from './actor.ts';
import { findSource } from './sources.ts';
import { workflowsNaming } from './used-by.ts';
import { findWorkflow } from './workflows.ts';

/*
 * Removing: what still uses a thing is named first. Then it is gone from every choice and page of its own, while everything it
 * did, every arrival, run, message and membership, stays where it is and goes on naming it.
 */

const workflow = (name: string) => `the workflow “${name}”`;

/** Refuses while something uses it, and says what: "“Spring fair” is still used by the workflow “Trial lesson”. Take it out there first." */
function refuseIfUsed(name: string, uses: string[]): void {
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
export async function removeSource(use: Use, id: string): Promise<void> {
  demand(use.actor, 'coordinator');
  const source = await findSource(use, id);
  if (source.kind === 'list') throw notHere('source');
  refuseIfUsed(source.name, await naming(use, id));
  const pull = await use.em.findOne(Pull, { source: id });
  if (pull) use.em.remove(pull);
  Object.assign(source, {
    state: 'paused',
    removedAt: new Date(use.runtime.now()),
    key: randomBytes(24).toString('base64url'),
  });
  audit(use.em, use.actor, 'source.remove', id, { name: source.name });
  await use.em.flush();
  await use.runtime.pool.query(
    'update needs_you set settled_at = now(), settled_by_id = $2 where source_id = $1 and settled_at is null',
    [id, use.actor.personId],
  );
  use.runtime.directory.forget();
}

/** Steps that send by each kind of account, in live workflows. */
const SENDING_STEPS: Partial<Record<ConnectionKind, string[]>> = {
  text_carrier: ['text'],
  mail_server: ['email', 'mailing'],
  chat_network: ['chat', 'chat-template'],
  company_directory: ['company'],
};

/** An account of a service. Answers and reports of what went out by it are still taken: a STOP is never lost. */
export async function removeConnection(use: Use, id: string): Promise<void> {
  demand(use.actor, 'coordinator');
  const connection = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!connection) throw notHere('connection');
  const others = await use.em.count(Connection, {
    business: use.actor.businessId,
    kind: connection.kind,
    id: { $ne: id },
  });
  const { rows } = await use.runtime.pool.query<{ name: string }>(
    `select 'the source “' || name || '”' as name from source where business_id = $1 and removed_at is null and settings ->> 'connectionId' = $2
     union select 'the workflow “' || w.name || '”' from workflow w join workflow_version v on v.id = w.live_version_id
       where w.business_id = $1 and w.state = 'live' and jsonb_path_exists(v.definition, '$.moments[*].**.kind ? (@ == $kinds[*])', jsonb_build_object('kinds', $3::jsonb))
     union select 'the front door' from connection where id::text = $2 and settings #>> '{frontDoor,on}' = 'true'
     union select 'an email to many that is on its way' from mailing m where m.business_id = $1 and m.state in ('planning', 'trying') and $4
     union select 'messages that wait to go out' from delivery where connection_id::text = $2 and state = 'sending' order by 1`,
    [
      use.actor.businessId,
      id,
      JSON.stringify(others === 0 ? (SENDING_STEPS[connection.kind] ?? []) : []),
      connection.kind === 'mail_server' && others === 0,
    ],
  );
  refuseIfUsed(connection.name, [...rows.map((row) => row.name), ...(await naming(use, id))]);
  Object.assign(connection, { removedAt: new Date(use.runtime.now()), secret: null });
  audit(use.em, use.actor, 'connection.remove', id, { name: connection.name, kind: connection.kind });
  await use.em.flush();
  use.runtime.directory.forget();
}

/** A workflow that is not live. Who is still on their way in it is told first, and ends there; its log stays. */
export async function removeWorkflow(use: Use, id: string, agreed: boolean): Promise<void> {
  demand(use.actor, 'coordinator');
  const found = await findWorkflow(use, id);
  if (found.state === 'live')
    throw new Refusal(409, 'live', `“${found.name}” is live. Pause it first; then it can be removed.`);
  const others = (await naming(use, id)).filter((name) => name !== workflow(found.name));
  refuseIfUsed(found.name, others);
  const underWay = await use.runtime.pool.query('select from run where workflow_id = $1 and due_at is not null', [id]);
  const n = underWay.rowCount ?? 0;
  if (n > 0 && !agreed)
    throw new Refusal(
      409,
      'under-way',
      `${n === 1 ? 'One lead is' : `${n} leads are`} still on their way in “${found.name}”. Removed, it sends them nothing more.`,
    );
  const left = await inTransaction(use.runtime.pool, async (client) => {
    await client.query(
      `with ended as (
         update run r set state = case when r.state = 'needs_you' then r.state else 'stopped' end, due_at = null, finished_at = now(), waits_for = null,
           outcome = 'Stopped: the workflow was removed'
         where r.workflow_id = $1 and r.due_at is not null and r.lease_by is null returning r.id)
       update delivery d set state = 'refused', detail = 'Not sent: the workflow was removed' from ended
       where d.run_id = ended.id and d.state = 'sending' and d.due_at is null`,
      [id],
    );
    const still = await client.query('select from run where workflow_id = $1 and due_at is not null', [id]);
    if (still.rowCount) return true;
    // Only as it was looked at: a colleague may have put it live meanwhile.
    const { rowCount } = await client.query(
      `update workflow set removed_at = $2 where id = $1 and state <> 'live' and removed_at is null`,
      [id, new Date(use.runtime.now())],
    );
    if (!rowCount) throw new Refusal(409, 'changed', 'A colleague has just changed it. Look at it again first.');
    return false;
  });
  if (left)
    throw new Refusal(409, 'at-work', 'Somebody is being answered by it this very moment. Try again in a few seconds.');
  audit(use.em, use.actor, 'workflow.remove', id, { name: found.name, endedRuns: n });
  await use.em.flush();
  use.runtime.directory.forget();
}

/** A list nothing writes to any more. Who was on it, and what they agreed to, stays with the leads. */
export async function removeList(use: Use, id: string): Promise<void> {
  demand(use.actor, 'coordinator');
  const list = await use.em.findOne(NurtureList, { id, business: use.actor.businessId }, { populate: ['source'] });
  if (!list) throw notHere('list');
  const source = list.source?.unwrap() ?? null;
  const { rows } = await use.runtime.pool.query<{ name: string }>(
    `select 'the segment “' || name || '”' as name from segment where business_id = $1 and strpos(condition::text, $2) > 0
     union all select 'an email to many that is on its way' from mailing where business_id = $1 and state in ('planning', 'trying') and strpos(audience::text, $2) > 0
     union all select 'work on many leads' from bulk_work where business_id = $1 and state = 'running' and strpos(choice::text, $2) > 0`,
    [use.actor.businessId, id],
  );
  refuseIfUsed(list.name, [
    ...(await naming(use, id)),
    ...(source ? await naming(use, source.id) : []),
    ...rows.map((row) => row.name),
  ]);
  const removedAt = new Date(use.runtime.now());
  list.removedAt = removedAt;
  if (source) Object.assign(source, { removedAt, state: 'paused' });
  audit(use.em, use.actor, 'list.remove', id, { name: list.name });
  await use.em.flush();
  use.runtime.directory.forget();
}
