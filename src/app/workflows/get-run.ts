import { z } from 'zod';
import { comparedWords, conditionWords } from '../../core/condition/words.ts';
import type { Field } from '../../core/fields/field.ts';
import { readAs } from '../../core/read-as.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { readReference, referenceLabel } from '../../core/template/field-reference.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { atWords } from '../../core/workflow/at-words.ts';
import type { Place } from '../../core/workflow/definition.ts';
import { placedSteps } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { catalogueNames, type Given } from '../../core/workflow/step-kind.ts';
import type { Attempt, DeliveryState, StepState } from '../../db/entities/run.ts';
import { stepKinds } from '../../steps/registry.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { type AskedRow, type DeliveryRow, type KeptRun, keptRun } from './kept-run.ts';
import { type RunRow, runRow } from './list-runs.ts';
import { catalogueFor } from './sample.ts';
/** One moment of a run: how it began, or why it was left out. */
export interface MomentView {
  id: string;
  title: string;
  beganAt: string | null;
  /** When it is due, while the run waits for it. */
  dueAt: string | null;
  skipped: string | null;
  caseId: string | null;
  /** The case taken, in words; null for a moment without cases. */
  caseName: string | null;
  compared: { holds: boolean; words: string }[];
}

export interface StepView {
  stepId: string;
  momentId: string;
  caseId: string | null;
  place: Place;
  title: string;
  icon: string;
  state: StepState | 'not_yet';
  plan: Plan | null;
  attempts: Attempt[];
  startedAt: string | null;
  finishedAt: string | null;
  nextTryAt: string | null;
  /** What was sent instead, when it was refused. */
  instead: Plan | null;
  delivery: {
    state: DeliveryState;
    detail: string;
    remoteId: string | null;
    acceptedAt: string | null;
    reportedAt: string | null;
    key: string;
    /** Read in chat; null when that is not known. */
    readAt: string | null;
  } | null;
  /** The question it asked, and what came back. */
  asked: { state: string; times: number; answer: string | null; replies: string[]; until: string } | null;
  /** The chat form it sent, and what was filled in; `text` is null until then. */
  form: { name: string; text: string | null; at: string | null } | null;
  /** What it found out, by the names of the fields. */
  found: { label: string; value: string }[];
  /** Links followed by people, how often, and whether the email was opened. */
  followed: { url: string; times: number }[];
  opened: boolean;
}

export interface RunView extends RunRow {
  workflowId: string;
  leadId: string;
  version: number;
  finishedAt: string | null;
  moments: MomentView[];
  steps: StepView[];
  /** What came in, as the source names it. */
  fields: Field[];
  where: WhereFrom;
  arrivalId: string;
  card: Record<string, string>;
  openNeeds: number;
}

const iso = (at: Date | null | undefined) => at?.toISOString() ?? null;

function momentViews({ row, results, began }: KeptRun, catalogue: Catalogue): MomentView[] {
  const { definition } = row;
  const labels = new Map(row.fields.map((field) => [field.key, field.label]));
  const names = catalogueNames(catalogue, labels);
  const named = atNames(definition, stepKinds, catalogue, labels);
  const done = new Set(results.map((result) => result.step_id));
  return definition.moments.map((moment, index) => {
    const result = began.find((beganRow) => beganRow.moment_id === moment.id);
    const own = placedSteps({ ...definition, moments: [moment] });
    const first = own
      .flatMap(({ step }) => results.filter((result) => result.step_id === step.id))
      .map((resultRow) => resultRow.started_at)
      .sort((a, b) => a.getTime() - b.getTime())[0];
    const taken = own.find(({ step, caseId }) => caseId !== null && done.has(step.id))?.caseId ?? null;
    const caseId = result ? result.case_id : taken;
    const chosen = moment.cases.find((eachCase) => eachCase.id === caseId);
    const caseName = () => {
      if (moment.cases.length === 0) return null;
      if (chosen) return chosen.name || conditionWords(chosen.when, names);
      return result || first ? 'Otherwise' : null;
    };
    return {
      id: moment.id,
      title: atWords(moment.at, named),
      beganAt: index === 0 ? iso(row.created_at) : iso(result?.began_at ?? first),
      dueAt: row.state === 'active' && row.moment_id === moment.id && !result && !first ? iso(row.due_at) : null,
      skipped: result?.skipped ?? null,
      caseId,
      caseName: caseName(),
      compared: (result?.compared ?? []).map((compared) => ({
        holds: compared.holds,
        words: comparedWords(compared, names),
      })),
    };
  });
}

const deliveryView = (delivery: DeliveryRow): StepView['delivery'] => ({
  state: delivery.state,
  detail: delivery.detail,
  remoteId: delivery.remote_id,
  acceptedAt: iso(delivery.accepted_at),
  reportedAt: iso(delivery.reported_at),
  key: delivery.id,
  readAt: iso(delivery.read_at),
});

const askedView = ({ step_id: _, until, ...question }: AskedRow): StepView['asked'] => ({
  ...question,
  until: until.toISOString(),
});

function stepViews({ row, results, deliveries, asked, visits, filledIn }: KeptRun, catalogue: Catalogue): StepView[] {
  return placedSteps(row.definition).map(({ step, place, moment, caseId }) => {
    const kind = stepKinds.get(step.kind);
    const settings = kind && readAs(kind.settings, step.settings);
    const result = results.find((result) => result.step_id === step.id);
    // What was sent instead comes after what was refused.
    const delivery = deliveries.findLast((delivery) => delivery.step_id === step.id && delivery.item < 10);
    const question = asked.find((askedRow) => askedRow.step_id === step.id);
    const answered = filledIn.find((filledRow) => filledRow.delivery_id === delivery?.id);
    const visited = visits.filter((visit) => visit.step_id === step.id);
    const form = delivery && 'form' in delivery.message ? delivery.message.form : undefined;
    return {
      stepId: step.id,
      momentId: moment.id,
      caseId,
      place,
      icon: kind?.icon ?? 'sparkles',
      title: kind && settings?.success ? kind.card(settings.data, catalogue).title : step.kind,
      state: result?.state ?? 'not_yet',
      plan: result?.plan ?? (delivery ? { does: 'send', message: delivery.message } : null),
      attempts: result?.attempts ?? [],
      startedAt: iso(result?.started_at),
      finishedAt: iso(result?.finished_at),
      nextTryAt: iso(result?.next_try_at),
      instead: result?.instead ?? null,
      delivery: delivery ? deliveryView(delivery) : null,
      form: form ? { name: form.name, text: answered?.text ?? null, at: iso(answered?.at) } : null,
      asked: question ? askedView(question) : null,
      found: (result?.results ?? []).map(({ reference, value }) => ({
        label: labelOfFound(reference, kind && settings?.success ? (kind.gives?.(settings.data, catalogue) ?? []) : []),
        value,
      })),
      followed: visited.filter((visitRow) => visitRow.kind === 'link').map(({ url, times }) => ({ url, times })),
      opened: visited.some((visitRow) => visitRow.kind === 'opened'),
    };
  });
}

export async function getRun(use: Use, workflowId: string, runId: string): Promise<RunView> {
  if (!z.uuid().safeParse(runId).success) throw notHere('run');
  const [kept, catalogue] = await Promise.all([keptRun(use, workflowId, runId), catalogueFor(use)]);
  const { row } = kept;
  return {
    ...runRow(row),
    workflowId,
    leadId: row.lead_id,
    version: row.number,
    finishedAt: iso(row.finished_at),
    moments: momentViews(kept, catalogue),
    steps: stepViews(kept, catalogue),
    fields: row.fields,
    where: row.where_from,
    arrivalId: row.arrival_id,
    card: row.card.fields,
    openNeeds: row.open_needs,
  };
}

/** The name of a field a step found, as its kind gives it. */
function labelOfFound(reference: string, gives: readonly Given[]): string {
  const read = readReference(reference);
  return gives.find((give) => give.key === read?.key)?.label ?? (read ? referenceLabel(read) : reference);
}
