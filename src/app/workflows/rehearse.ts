import { factKey } from '../../core/condition/evaluate.ts';
import { SAMPLE } from '../../core/source/sample.ts';
import { phoneZone } from '../../core/time/phone-zone.ts';
import { heldFor } from '../../core/time/quiet-hours.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';
import { type Definition, placedSteps } from '../../core/workflow/definition.ts';
import type { FieldSet } from '../../core/workflow/plan.ts';
import { samePersonDoes } from '../../core/workflow/rules.ts';
import { type RunContext, withValues } from '../../core/workflow/run-context.ts';
import { answerFact } from '../../engine/runs/answer-fact.ts';
import { sourceKinds } from '../../sources/registry.ts';
import { stepPerformers } from '../../steps/perform-registry.ts';
import {
  type Assume,
  type Rehearsal,
  type RehearsedMoment,
  rehearsedSteps,
  rehearse as rehearseSheet,
} from '../../steps/rehearse.ts';
import { may } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
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
  assume: Pick<Assume, 'happens' | 'justCameIn' | 'values'>,
): Promise<Rehearsal> {
  const clocks = { now: use.runtime.now(), zoneOf: phoneZone, heldFor };
  const { catalogue } = await use.runtime.settingsCache.provisionsOf(use.actor.businessId);
  const found = new Map<string, FieldSet[]>();
  let context = start;
  let shown = rehearseSheet(definition, context, catalogue, { ...clocks, ...assume, found });
  // What is looked up may lead to further questions; a sheet has at most as many rounds as steps.
  for (let round = 0; round < 20; round++) {
    const looks = rehearsedSteps(shown).filter(
      ({ stepId, taken, plan }) => taken && plan.does === 'look' && !found.has(stepId),
    );
    if (shown.wants.length === 0 && looks.length === 0) break;
    const facts = { ...context.facts };
    for (const asked of shown.wants) facts[factKey(asked)] = await answerFact(use.db, use.actor.businessId, asked);
    for (const { stepId, plan } of looks) {
      const kind = placedSteps(definition).find(({ step }) => step.id === stepId)!.step.kind;
      const look = stepPerformers.get(kind)?.look;
      const came =
        look && plan.does === 'look' ? await look(use.db, plan.what, { businessId: use.actor.businessId }) : null;
      found.set(stepId, came?.results ?? []);
    }
    context = { ...context, facts };
    shown = rehearseSheet(definition, context, catalogue, { ...clocks, ...assume, found });
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
  const { moments } = await rehearseKnowing(use, w.draft, context, {
    happens: input.happens,
    justCameIn: sample.theirDoing,
    values: input.values ?? {},
  });
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
  const choices = await sampleChoices(use, w.draft.sources, 25);
  const notRun = await startsNothing(
    use,
    w.draft,
    choices.map((choice) => choice.arrivalId),
  );
  const out: RehearsedLead[] = [];
  for (const { arrivalId, name, receivedAt } of choices) {
    const why = notRun.get(arrivalId);
    if (why !== undefined) {
      out.push({ arrivalId, name, receivedAt, messages: [], stopped: why });
      continue;
    }
    const sample = await readSample(use, arrivalId);
    const { moments } = await rehearseKnowing(use, w.draft, sample.context, {
      happens: false,
      justCameIn: sample.theirDoing,
    });
    const steps = moments.flatMap((moment) => moment.steps).filter(({ taken, place }) => taken && place === 'lead');
    const sent = steps.flatMap(({ plan }) => (plan.does === 'send' ? [CHANNEL_WORDS[plan.message.channel].one] : []));
    const reasons = steps.flatMap(({ plan }) =>
      (plan.does === 'nothing' && plan.why.code !== 'switched_off') || plan.does === 'ask' ? [plan.why.text] : [],
    );
    const leftOut = moments[0]?.leftOut ?? null;
    const { person } = sample.context;
    out.push({
      arrivalId,
      name: `${person.first_name} ${person.last_name}`.trim() || person.email || person.phone || 'Without a name',
      receivedAt: sample.receivedAt,
      messages: sent,
      stopped: leftOut ?? reasons[0] ?? null,
    });
  }
  await markTried(use, workflowId);
  return out;
}

/** Which of these arrivals would start nothing, and why: kept out by their source, or of somebody the sheet knows already. */
async function startsNothing(
  use: Use,
  { sources, rules }: Definition,
  arrivalIds: string[],
): Promise<Map<string, string>> {
  const { rows } = await use.db.query<{
    id: string;
    kind: string;
    aside: boolean;
    problem: string | null;
    known: boolean;
  }>(
    `select a.id, s.kind, a.state = 'aside' and a.problem <> $6 as aside, a.problem, exists (select from arrival b where b.lead_id = a.lead_id and b.source_id = any($2::uuid[])
         and b.state = 'read' and (b.received_at, b.id) < (a.received_at, a.id) and ($3 = 'workflow' or b.source_id = a.source_id)
         and ($4 <> 'run_again_after' or b.received_at > a.received_at - $5::int * interval '1 day')) as known
     from arrival a join source s on s.id = a.source_id where a.id = any($1::uuid[])`,
    [arrivalIds, sources, rules.knownBy, rules.samePerson, rules.againAfterDays, SAMPLE],
  );
  return new Map(
    rows.flatMap(({ id, kind, aside, problem, known }): [string, string][] => {
      if (aside) return [[id, `Kept out. ${problem}`]];
      const does = samePersonDoes(rules.samePerson, sourceKinds.get(kind)?.eachCounts === true);
      if (!known || does === 'run_again') return [];
      return [[id, does === 'nothing' ? 'Known: nothing starts' : 'Known, not repeated']];
    }),
  );
}

/** The sheet counts as tried as it is now; whoever only looks tries it for themselves. */
export async function markTried(use: Use, id: string): Promise<void> {
  if (!may(use.actor, 'build')) return;
  await use.db.query('update workflow set tried_revision = revision where id = $1 and business_id = $2', [
    id,
    use.actor.businessId,
  ]);
}
