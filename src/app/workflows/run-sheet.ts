import type { Finding } from '../../core/workflow/finding.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { Source } from '../../db/entities/source.ts';
import { sourceKinds } from '../../sources/registry.ts';
import { demand } from '../actor.ts';
import type { Use, Write } from '../use.ts';
import { checkInput, readSample, type Sample, type SampleChoice, sampleChoices, sampleFor } from './sample.ts';
import { findingsOf, findWorkflow, getWorkflow, type WorkflowView } from './workflows.ts';

export interface SheetSource {
  id: string;
  name: string;
  state: 'waiting' | 'live' | 'paused';
  icon: string;
  /** A form page of our own, which can be asked for one more answer. */
  ownForm: boolean;
  asksConsent: boolean;
  /** How often it is fetched from; 0 for as soon as something changes there, null where it is told. */
  everyMinutes: number | null;
}

/** All that the run sheet's screen needs. */
export interface SheetView {
  workflow: WorkflowView;
  sources: SheetSource[];
  catalogue: Catalogue;
  sample: Sample | null;
  choices: SampleChoice[];
  findings: Finding[];
  /** Median milliseconds from arrival to first reply of the last 50 runs; null without any. */
  usualReplyMs: number | null;
}

export async function getSheet(use: Use, id: string): Promise<SheetView> {
  const w = await findWorkflow(use, id);
  const [workflow, sources, pulls, input, sample, choices, findings, usual] = await Promise.all([
    getWorkflow(use, id),
    use.em.fork().find(Source, { business: use.actor.businessId }, { orderBy: { createdAt: 'asc' } }),
    use.db.query<{ source_id: string; every_minutes: number }>(
      'select p.source_id, p.every_minutes from pull p join source s on s.id = p.source_id where s.business_id = $1',
      [use.actor.businessId],
    ),
    checkInput(forked(use), w),
    sampleFor(forked(use), w),
    sampleChoices(forked(use), w.draft.sources),
    findingsOf(forked(use), w),
    use.db.query<{ ms: string | null }>(
      `select percentile_cont(0.5) within group (order by ms) as ms from (
         select extract(epoch from first_reply_at - created_at) * 1000 as ms from run
         where workflow_id = $1 and first_reply_at is not null and from_step is null order by created_at desc limit 50) last`,
      [id],
    ),
  ]);
  const every = new Map(pulls.rows.map((row) => [row.source_id, row.every_minutes]));
  return {
    workflow,
    catalogue: input.catalogue,
    sample,
    choices,
    findings,
    usualReplyMs: usual.rows[0]?.ms == null ? null : Number(usual.rows[0].ms),
    sources: sources.map(({ id, name, state, kind, card }) => ({
      everyMinutes: every.get(id) ?? null,
      id,
      name,
      state,
      icon: sourceKinds.get(kind)!.icon,
      ownForm: kind === 'form-page',
      asksConsent: card.consent.kind !== 'not_asked',
    })),
  };
}

/** One unit of work takes one query at a time: side by side, each gets its own. */
const forked = (use: Use): Use => ({ ...use, em: use.em.fork() });

/** Chooses the sample lead of a sheet; null goes back to the newest. */
export async function chooseSample(
  tx: Write,
  id: string,
  arrivalId: string | null,
): Promise<{ sample: Sample | null; findings: Finding[] }> {
  demand(tx.actor, 'build');
  const w = await findWorkflow(tx, id);
  if (arrivalId) await readSample(tx, arrivalId);
  w.sampleArrivalId = arrivalId;
  tx.note('workflow.sample', id);
  return { sample: await sampleFor(tx, w), findings: await findingsOf(tx, w) };
}
