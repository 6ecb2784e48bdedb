import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { blankDefinition, type Definition } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import { toCheck } from '../../core/workflow/to-check.ts';
import { type IWorkflow, Workflow, WorkflowVersion } from '../../db/entities/workflow.ts';
import { stepKinds } from '../../steps/registry.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { findSource } from '../sources/sources.ts';
import type { Use, Write } from '../use.ts';
import { checkInput } from './sample.ts';

export interface WorkflowRow {
  id: string;
  name: string;
  folder: string;
  state: 'draft' | 'live' | 'paused';
  version: number | null;
  edited: boolean;
  leadsToday: number;
  needsYou: number;
  lastArrivalAt: string | null;
  /** What came of the last run, as it stands; null where there is none. */
  lastRun: { state: string; outcome: string } | null;
  /** Runs on each of the last 14 days, oldest first. */
  trend: number[];
}

export async function listWorkflows(use: Use): Promise<WorkflowRow[]> {
  const rows = (await use.em.execute(
    `select w.id, w.name, w.folder, w.state, v.number as version, w.live_revision is distinct from w.revision as edited,
       coalesce(t.today, 0)::int as today, coalesce(t.needs, 0)::int as needs, l.at as last, l.state as last_state, l.outcome as last_outcome, coalesce(t.trend, '[]') as trend
     from workflow w left join workflow_version v on v.id = w.live_version_id
     left join lateral (select r.created_at as at, r.state, r.outcome from run r where r.workflow_id = w.id order by r.created_at desc limit 1) l on true
     left join lateral (
       select sum(n) filter (where d = current_date at time zone 'UTC') as today, sum(needs) as needs,
         jsonb_agg(n order by d) as trend
       from (select g.d, count(r.id) as n, count(r.id) filter (where r.state = 'needs_you') as needs
         from generate_series(0, 13) i, lateral (select date_trunc('day', now() at time zone ?) - (13 - i) * interval '1 day' as d) g
         left join run r on r.workflow_id = w.id and r.created_at >= g.d at time zone ? and r.created_at < (g.d + interval '1 day') at time zone ?
         group by g.d) days) t on true
     where w.business_id = ? and w.removed_at is null order by w.folder, w.name`,
    [use.actor.timeZone, use.actor.timeZone, use.actor.timeZone, use.actor.businessId],
  )) as {
    id: string;
    name: string;
    folder: string;
    state: WorkflowRow['state'];
    version: number | null;
    edited: boolean;
    today: number;
    needs: number;
    last: Date | null;
    last_state: string | null;
    last_outcome: string | null;
    trend: number[];
  }[];
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    folder: row.folder,
    state: row.state,
    version: row.version,
    edited: row.edited,
    leadsToday: row.trend.at(-1) ?? 0,
    needsYou: row.needs,
    lastArrivalAt: row.last ? new Date(row.last).toISOString() : null,
    lastRun: row.last_state === null ? null : { state: row.last_state, outcome: row.last_outcome ?? '' },
    trend: row.trend,
  }));
}

/** With `removed`, also one that has been removed: its log can still be looked at. */
export async function findWorkflow(use: Use, id: string, removed = false): Promise<IWorkflow> {
  const found = z.uuid().safeParse(id).success
    ? await use.em.findOne(Workflow, { id, business: use.actor.businessId }, { filters: { present: !removed } })
    : null;
  if (!found) throw notHere('workflow');
  return found;
}

export interface WorkflowView {
  id: string;
  name: string;
  folder: string;
  state: 'draft' | 'live' | 'paused';
  draft: Definition;
  revision: number;
  liveVersion: number | null;
  nextVersion: number;
  /** Revision of the draft that the live version was made from; null when it has never been live. */
  liveRevision: number | null;
  sampleArrivalId: string | null;
  removedAt: string | null;
}

/** Workflows that have been removed, the last first. */
export async function removedWorkflows(use: Use): Promise<{ id: string; name: string; removedAt: string }[]> {
  const found = await use.em.find(
    Workflow,
    { business: use.actor.businessId, removedAt: { $ne: null } },
    { filters: { present: false }, orderBy: { removedAt: 'desc' }, fields: ['id', 'name', 'removedAt'], limit: 100 },
  );
  return found.map(({ id, name, removedAt }) => ({ id, name, removedAt: removedAt!.toISOString() }));
}

export async function getWorkflow(use: Use, id: string, removed = false): Promise<WorkflowView> {
  const w = await findWorkflow(use, id, removed);
  const versions = await use.em.find(
    WorkflowVersion,
    { workflow: w.id },
    { orderBy: { number: 'desc' }, fields: ['id', 'number'] },
  );
  const live = versions.find((version) => version.id === w.liveVersionId);
  return {
    id: w.id,
    name: w.name,
    folder: w.folder,
    state: w.state,
    draft: w.draft,
    revision: w.revision,
    liveVersion: live?.number ?? null,
    nextVersion: (versions[0]?.number ?? 0) + 1,
    liveRevision: w.liveRevision ?? null,
    sampleArrivalId: w.sampleArrivalId ?? null,
    removedAt: w.removedAt?.toISOString() ?? null,
  };
}

export async function createWorkflow(
  tx: Write,
  input: { name: string; folder: string; draft?: Definition; sourceId?: string | undefined },
): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  const sources = input.sourceId ? [(await findSource(tx, input.sourceId)).id] : [];
  const now = new Date();
  const made = tx.em.create(Workflow, {
    id: uuidv7(),
    business: tx.actor.businessId,
    name: input.name,
    folder: input.folder,
    state: 'draft',
    draft: input.draft ?? { ...blankDefinition('arrival'), sources },
    revision: 0,
    createdAt: now,
    updatedAt: now,
  });
  tx.note('workflow.create', made.id, { name: input.name });
  return { id: made.id };
}

/** Names that are taken. */
export const workflowNames = async (use: Use): Promise<Set<string>> =>
  new Set(
    (await use.em.find(Workflow, { business: use.actor.businessId }, { fields: ['name'] })).map(({ name }) => name),
  );

/** A copy as a new draft; its sources are left out, so that nothing rings twice. */
export async function copyWorkflow(tx: Write, id: string): Promise<{ id: string }> {
  const w = await findWorkflow(tx, id);
  return createWorkflow(tx, {
    name: `Copy of ${w.name}`.slice(0, 120),
    folder: w.folder,
    draft: { ...w.draft, sources: [] },
  });
}

/**
 * Saves an edit. `revision` is the one the edit was made on: when somebody else has saved meanwhile nothing is overwritten.
 */
export async function saveDraft(
  tx: Write,
  id: string,
  input: { revision: number; draft: Definition },
): Promise<{ revision: number; findings: Finding[] }> {
  demand(tx.actor, 'build');
  const { rowCount } = await tx.db.query(
    `update workflow set draft = $4, revision = revision + 1, updated_at = now() where id = $1 and business_id = $2 and revision = $3`,
    [id, tx.actor.businessId, input.revision, JSON.stringify(input.draft)],
  );
  if (rowCount === 0) {
    await findWorkflow(tx, id);
    throw new Refusal(
      409,
      'edited-elsewhere',
      'Somebody else has changed this run sheet meanwhile. Load the page again to see it; your last change was not saved.',
    );
  }
  return { revision: input.revision + 1, findings: await findingsOf(tx, await findWorkflow(tx, id)) };
}

export async function renameWorkflow(tx: Write, id: string, input: { name: string; folder: string }): Promise<void> {
  demand(tx.actor, 'build');
  const w = await findWorkflow(tx, id);
  tx.note('workflow.rename', id, {
    name: input.name,
    before: { name: w.name, folder: w.folder },
    after: { name: input.name, folder: input.folder },
  });
  w.name = input.name;
  w.folder = input.folder;
}

export async function findingsOf(use: Use, w: IWorkflow): Promise<Finding[]> {
  return toCheck(w.draft, stepKinds, await checkInput(use, w));
}

export interface VersionView {
  number: number;
  putLiveAt: string;
  putLiveBy: string;
  live: boolean;
  runs: number;
  definition: Definition;
}

export async function listVersions(use: Use, id: string): Promise<VersionView[]> {
  const w = await findWorkflow(use, id);
  const rows = (await use.em.execute(
    `select v.id, v.number, v.put_live_at, v.definition, coalesce(p.name, '') as by, (select count(*)::int from run r where r.version_id = v.id and r.workflow_id = v.workflow_id) as runs
     from workflow_version v left join person p on p.id = v.put_live_by_id where v.workflow_id = ? order by v.number desc`,
    [w.id],
  )) as { id: string; number: number; put_live_at: Date; definition: Definition; by: string; runs: number }[];
  return rows.map((row) => ({
    number: row.number,
    putLiveAt: new Date(row.put_live_at).toISOString(),
    putLiveBy: row.by,
    live: row.id === w.liveVersionId && w.state === 'live',
    runs: row.runs,
    definition: row.definition,
  }));
}

/** Brings an old version back as the draft; it goes live only when put live. */
export async function restoreVersion(tx: Write, id: string, number: number): Promise<void> {
  demand(tx.actor, 'build');
  const w = await findWorkflow(tx, id);
  const version = await tx.em.findOne(WorkflowVersion, { workflow: w.id, number });
  if (!version) throw notHere('version');
  w.draft = version.definition;
  w.revision += 1;
  w.updatedAt = new Date();
  tx.note('workflow.restore', w.id, { version: number });
}
