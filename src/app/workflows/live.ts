import type { EntityManager } from '@mikro-orm/postgresql';
import { v7 as uuidv7 } from 'uuid';
import { CHANNELS } from '../../core/workflow/channel.ts';
import { type Definition, placedSteps } from '../../core/workflow/definition.ts';
import { Rules, samePersonDoes } from '../../core/workflow/rules.ts';
import { Source } from '../../db/entities/source.ts';
import { type IWorkflow, Listening, WorkflowVersion } from '../../db/entities/workflow.ts';
import { sourceKinds } from '../../sources/registry.ts';
import { demand } from '../actor.ts';
import { changedMeanwhile, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { findingsOf, findWorkflow } from './workflows.ts';

/** What listens to the sources of a version from now on, each by the rule for what it brings. */
async function listen(em: EntityManager, w: IWorkflow, version: string, definition: Definition): Promise<void> {
  const { samePerson, againAfterDays, knownBy } = Rules.parse(definition.rules);
  const business = w.business.id;
  const sources = await em.find(Source, { id: { $in: definition.sources }, business }, { fields: ['id', 'kind'] });
  for (const source of sources) {
    const does = samePersonDoes(samePerson, sourceKinds.get(source.kind)?.eachCounts === true);
    em.create(Listening, {
      ...{ source: source.id, business, workflow: w.id, version },
      ...{ samePerson: does, againAfterDays, knownBy },
    });
  }
  await em.flush();
}

/** Makes the draft the live version. What is under way stays on the version it began with. */
export async function putLive(
  tx: Write,
  id: string,
  { revision, moveOn: goOn = false }: { revision?: number | undefined; moveOn?: boolean } = {},
): Promise<{ version: number; moved: number; atOnce: boolean }> {
  demand(tx.actor, 'build');
  // Locked: a colleague's save, or their putting live, waits until this stands.
  await tx.db.query('select from workflow where id = $1 and business_id = $2 for update', [id, tx.actor.businessId]);
  const w = await findWorkflow(tx, id);
  if (revision !== undefined && revision !== w.revision) throw changedMeanwhile('run sheet');
  const stops = (await findingsOf(tx, w)).filter((finding) => finding.weight === 'must');
  if (stops.length > 0)
    throw new Refusal(
      422,
      'to-check',
      `It cannot go live yet: ${stops[0]!.text}${stops.length > 1 ? ` And ${stops.length - 1} more under "To check".` : ''}`,
      { findings: stops },
    );
  const [{ next }] = (await tx.em.execute(
    'select coalesce(max(number), 0)::int + 1 as next from workflow_version where workflow_id = ?',
    [w.id],
  )) as [{ next: number }];
  const made = tx.em.create(WorkflowVersion, {
    id: uuidv7(),
    business: tx.actor.businessId,
    workflow: w.id,
    number: next,
    definition: w.draft,
    putLiveBy: tx.actor.personId,
    putLiveAt: new Date(),
  });
  w.liveVersionId = made.id;
  w.liveRevision = w.revision;
  w.state = 'live';
  tx.note('workflow.put_live', w.id, { version: next });
  await tx.em.flush();
  await tx.em.nativeDelete(Listening, { workflow: w.id });
  await listen(tx.em, w, made.id, w.draft);
  const moved = goOn ? await moveOn(tx, w.id, made.id, w.draft) : 0;
  return { version: next, moved, atOnce: answersAtOnce(w.draft) };
}

/**
 * Runs of a workflow that wait for a moment the draft has too, and that no process has in hand: what they wait for has not
 * begun, so they can go on with another version.
 */
const WAITING = `workflow_id = ? and state = 'active' and lease_by is null and due_at is not null and moment_id in (select jsonb_array_elements_text(?::jsonb))
  and not exists (select from moment_result m where m.run_id = run.id and m.moment_id = run.moment_id)
  and not exists (select from step_result s where s.run_id = run.id and s.state in ('again', 'held'))`;

/** Leads under way that can go on with a version do so from now on; gives how many. */
export const moveOn = async (tx: Write, id: string, version: string, definition: Definition): Promise<number> =>
  (
    (await tx.em.execute(`update run set version_id = ? where ${WAITING} returning id`, [
      ...[version, id, momentIds(definition)],
    ])) as unknown[]
  ).length;

/** Whether its hours would hold a message that goes all the same, because somebody has just come in. */
const answersAtOnce = ({ moments, rules }: Definition): boolean =>
  rules.answerAtOnce &&
  placedSteps({ moments: moments.slice(0, 1), sources: [], rules }).some(
    ({ step, place }) =>
      place === 'lead' &&
      step.on &&
      CHANNELS.some((channel) => rules.hours[channel] !== null && step.kind.startsWith(channel)),
  );

const momentIds = ({ moments }: Definition) => JSON.stringify(moments.map((moment) => moment.id));

export interface UnderWay {
  /** Leads under way. */
  count: number;
  /** Those that wait for a moment the draft has too. */
  canMove: number;
}

export async function underWay(use: Use, id: string): Promise<UnderWay> {
  const w = await findWorkflow(use, id);
  const [row] = (await use.em.execute(
    `select count(*)::int as count, (select count(*)::int from run where ${WAITING}) as can
     from run where workflow_id = ? and state = 'active'`,
    [w.id, momentIds(w.draft), w.id],
  )) as [{ count: number; can: number }];
  return { count: row.count, canMove: row.can };
}

/** Paused: nothing new starts; what is under way goes on. */
export async function pauseWorkflow(tx: Write, id: string, paused: boolean): Promise<void> {
  demand(tx.actor, 'build');
  const w = await findWorkflow(tx, id);
  const version = w.liveVersionId ? await tx.em.findOne(WorkflowVersion, { id: w.liveVersionId }) : null;
  if (!version) throw new Refusal(409, 'never-live', 'This workflow has never been live. Put it live first.');
  w.state = paused ? 'paused' : 'live';
  await tx.em.nativeDelete(Listening, { workflow: w.id });
  if (!paused) await listen(tx.em, w, version.id, version.definition);
  tx.note(paused ? 'workflow.pause' : 'workflow.resume', w.id);
}
