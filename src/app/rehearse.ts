import { factKey } from '../core/condition/evaluate.ts';
import { phoneZone } from '../core/time/phone-zone.ts';
import { CHANNEL_WORDS } from '../core/workflow/channel.ts';
import { type Definition, placedSteps } from '../core/workflow/definition.ts';
import type { FieldSet } from '../core/workflow/plan.ts';
import { type RunContext, withValues } from '../core/workflow/run-context.ts';
import { answerFact } from '../engine/answer-fact.ts';
import { stepPerformers } from '../steps/perform-registry.ts';
import {
  type Assume,
  type Rehearsal,
  type RehearsedMoment,
  rehearsedSteps,
  rehearse as rehearseSheet,
} from '../steps/rehearse.ts';
import { Refusal, type Use } from './actor.ts';
import { readSample, sampleChoices, sampleFor } from './sample.ts';
import { findWorkflow } from './workflows.ts';

export async function theSample(use: Use, w: Awaited<ReturnType<typeof findWorkflow>>, arrivalId: string | null) {
  const sample = arrivalId ? await readSample(use, arrivalId) : await sampleFor(use, w);
  if (!sample)
    throw new Refusal(409, 'no-sample', 'There is no sample lead yet. Fill in the form once, then rehearse.');
  return sample;
}

/** What a sheet would do, with what only the database knows looked up. Nothing is written, nothing leaves. */
export async function rehearseKnowing(
  use: Use,
  definition: Definition,
  start: RunContext,
  assume: Pick<Assume, 'happens'>,
): Promise<Rehearsal> {
  const { desk } = await use.runtime.directory.deskOf(use.actor.businessId);
  const found = new Map<string, FieldSet[]>();
  let context = start;
  let shown = rehearseSheet(definition, context, desk, { now: use.runtime.now(), zoneOf: phoneZone, ...assume, found });
  // What is looked up may lead to further questions; a sheet has at most as many rounds as steps.
  for (let round = 0; round < 20; round++) {
    const looks = rehearsedSteps(shown).filter(
      ({ stepId, taken, plan }) => taken && plan.does === 'look' && !found.has(stepId),
    );
    if (shown.wants.length === 0 && looks.length === 0) break;
    const facts = { ...context.facts };
    for (const asked of shown.wants)
      facts[factKey(asked)] = await answerFact(use.runtime.pool, use.actor.businessId, asked);
    for (const { stepId, plan } of looks) {
      const kind = placedSteps(definition).find(({ step }) => step.id === stepId)!.step.kind;
      const look = stepPerformers.get(kind)?.look;
      const came =
        look && plan.does === 'look'
          ? await look(use.runtime.pool, plan.what, { businessId: use.actor.businessId })
          : null;
      found.set(stepId, came?.results ?? []);
    }
    context = { ...context, facts };
    shown = rehearseSheet(definition, context, desk, { now: use.runtime.now(), zoneOf: phoneZone, ...assume, found });
  }
  return shown;
}

export interface RehearsalShown {
  name: string;
  moments: RehearsedMoment[];
}

/** Rehearses a sheet with a sample lead, or with values of it that were edited. */
export async function rehearse(
  use: Use,
  workflowId: string,
  input: { arrivalId: string | null; happens: boolean; values?: Record<string, string> | undefined },
): Promise<RehearsalShown> {
  const w = await findWorkflow(use, workflowId);
  const sample = await theSample(use, w, input.arrivalId);
  const context = withValues(sample.context, input.values ?? {});
  const { moments } = await rehearseKnowing(use, w.draft, context, input);
  await markTried(use, workflowId);
  const { person } = context;
  return { name: `${person.first_name} ${person.last_name}`.trim() || person.email || person.phone, moments };
}

export interface RehearsedLead {
  arrivalId: string;
  name: string;
  receivedAt: string;
  /** What would go to the lead, in the order of the sheet: "Text", "Email". */
  messages: string[];
  /** Why nothing would, or why it would stop; null when all goes. */
  stopped: string | null;
}

/** The last leads of the sheet's sources, each through the sheet as it is now. Nothing leaves. */
export async function rehearseLast(use: Use, workflowId: string): Promise<RehearsedLead[]> {
  const w = await findWorkflow(use, workflowId);
  const choices = (await sampleChoices(use, w.draft.sources, 25)).slice(0, 25);
  const out: RehearsedLead[] = [];
  for (const { arrivalId } of choices) {
    const sample = await readSample(use, arrivalId);
    const { moments } = await rehearseKnowing(use, w.draft, sample.context, { happens: false });
    const steps = moments.flatMap((moment) => moment.steps).filter(({ taken, place }) => taken && place === 'lead');
    const sent = steps.flatMap(({ plan }) => (plan.does === 'send' ? [CHANNEL_WORDS[plan.message.channel].one] : []));
    const why = steps.flatMap(({ plan }) =>
      (plan.does === 'nothing' && plan.why.code !== 'switched_off') || plan.does === 'ask' ? [plan.why.text] : [],
    );
    const leftOut = moments[0]?.leftOut ?? null;
    const { person } = sample.context;
    out.push({
      arrivalId,
      name: `${person.first_name} ${person.last_name}`.trim() || person.email || person.phone || 'Without a name',
      receivedAt: sample.receivedAt,
      messages: sent,
      stopped: leftOut ?? why[0] ?? null,
    });
  }
  await markTried(use, workflowId);
  return out;
}

/** The sheet counts as tried as it is now; whoever only looks tries it for themselves. */
export async function markTried(use: Use, id: string): Promise<void> {
  if (use.actor.role === 'viewer') return;
  await use.runtime.pool.query('update workflow set tried_revision = revision where id = $1 and business_id = $2', [
    id,
    use.actor.businessId,
  ]);
}
