import { z } from 'zod';
import { type Verdict, verdictOf, verdictWords } from '../../core/results/trial.ts';
import type { Share } from '../../core/statistics/two-shares.ts';
import { wilson } from '../../core/statistics/wilson.ts';
import { templateWords } from '../../core/template/template.ts';
import { type Definition, placedSteps, type Step } from '../../core/workflow/definition.ts';
import { TRIAL_GOALS, type Trial, type TrialGoal, type Version } from '../../core/workflow/trial.ts';
import { stepKinds } from '../../steps/registry.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { findWorkflow } from '../workflows/workflows.ts';
import type { AskedResults } from './asked.ts';

/** What messages of one step, or of one version of it, have brought. */
export interface MessageRow {
  stepId: string;
  /** What the step is called on the sheet. */
  name: string;
  channel: 'text' | 'email' | 'chat';
  version: Version | null;
  /** The trial it is part of. */
  trialId: string | null;
  sent: number;
  /** Null where no report of it comes. */
  delivered: number | null;
  /** By people, and by machines that look at mail; null where openings cannot be counted. */
  opened: number | null;
  openedByMachines: number;
  followed: number;
  replied: number;
  booked: number;
  /** Of those sent, with its range of 95 %. */
  bookedRange: { low: number; high: number } | null;
  /** They asked for no more within these days. */
  left: number;
  /** As it went out last. */
  subject: string;
  text: string;
}

export interface TrialView {
  trial: Trial;
  stepId: string;
  name: string;
  a: Share;
  b: Share;
  verdict: Verdict;
  says: string;
}

export interface StepResultsView {
  days: AskedResults['days'];
  period: AskedResults['period'];
  /** Days after a message in which what happens is counted with it. */
  within: number;
  rows: MessageRow[];
  trials: TrialView[];
}

const WITHIN = z.coerce.number().int().min(1).max(90);

/** Days after a message in which something counts with it, out of the address of the page. */
export function askedWithin(query: URLSearchParams): number {
  const read = WITHIN.safeParse(query.get('within') ?? '7');
  if (!read.success) throw new Refusal(422, 'not-understood', 'Give the days as a number from 1 to 90.');
  return read.data;
}

/** The same for a page: what makes no sense is a week. */
export const withinOrUsual = (query: URLSearchParams): number => WITHIN.safeParse(query.get('within') ?? '7').data ?? 7;

/** Whether something happened to the lead of a delivery (as `d`) within so many days, by what is asked for. */
const happened = (goal: TrialGoal | 'left', days: string): string => {
  const soon = (at: string) => `${at} > d.accepted_at and ${at} <= d.accepted_at + ${days} * interval '1 day'`;
  switch (goal) {
    case 'replied':
      return `exists (select from inbound i where i.lead_id = d.lead_id and ${soon('i.received_at')})`;
    case 'followed':
      return `exists (select from visit v where v.delivery_id = d.id and v.kind = 'link' and not v.machine and ${soon('v.at')})`;
    case 'booked':
      return `exists (select from result_credit c join lead_result l on l.id = c.result_id where l.lead_id = d.lead_id and c.kind = 'booked' and ${soon('c.at')})`;
    case 'left':
      return `exists (select from consent c where c.lead_id = d.lead_id and c.state = 'withdrawn' and ${soon('c.at')})`;
  }
};

interface Counted {
  step_id: string;
  channel: MessageRow['channel'];
  trial: string | null;
  version: Version | null;
  sent: number;
  delivered: number;
  opened: number;
  machines: number;
  counts_opens: boolean;
  followed: number;
  replied: number;
  booked: number;
  left: number;
  subject: string | null;
  text: string | null;
}

/** What each message of a workflow brings, and how its trials stand. */
export async function getStepResults(
  use: Use,
  workflowId: string,
  asked: AskedResults,
  within: number,
): Promise<StepResultsView> {
  const workflow = await findWorkflow(use, workflowId, true);
  const { from, to } = asked.days;
  const opens = (machine: boolean) =>
    `exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and v.machine = ${machine})`;
  const [{ rows }, live, catalogue] = await Promise.all([
    use.db.query<Counted>(
      `select d.step_id, d.channel, d.message -> 'trial' ->> 'id' as trial, d.message -> 'trial' ->> 'version' as version, count(*)::int as sent,
         count(*) filter (where d.state = 'delivered' or d.read_at is not null)::int as delivered,
         count(*) filter (where ${opens(false)})::int as opened, count(*) filter (where ${opens(true)} and not ${opens(false)})::int as machines,
         bool_or(d.message ? 'countOpens') as counts_opens,
         count(*) filter (where ${happened('followed', '$5')})::int as followed, count(*) filter (where ${happened('replied', '$5')})::int as replied,
         count(*) filter (where ${happened('booked', '$5')})::int as booked, count(*) filter (where ${happened('left', '$5')})::int as left,
         (array_agg(d.message ->> 'subject' order by d.accepted_at desc))[1] as subject, (array_agg(d.message ->> 'text' order by d.accepted_at desc))[1] as text
       from delivery d join run r on r.id = d.run_id
       where d.business_id = $1 and r.workflow_id = $2 and d.audience = 'lead' and d.accepted_at is not null
         and (d.accepted_at at time zone $6)::date between $3 and $4 and d.created_at >= $3::date - 60 group by 1, 2, 3, 4 order by 5 desc`,
      [use.actor.businessId, workflowId, from, to, within, use.actor.timeZone],
    ),
    use.db.query<{ definition: Definition }>(
      'select v.definition from workflow w join workflow_version v on v.id = w.live_version_id where w.id = $1',
      [workflowId],
    ),
    catalogueFor(use),
  ]);
  const steps = new Map<string, Step>();
  for (const definition of [live.rows[0]?.definition, workflow.draft])
    for (const { step } of definition ? placedSteps(definition) : []) steps.set(step.id, step);
  const nameOf = (id: string): string => {
    const step = steps.get(id);
    const kind = step && stepKinds.get(step.kind);
    const settings = step && kind?.settings.safeParse(step.settings);
    if (!kind || !settings?.success) return 'A step that is gone';
    const { title, line } = kind.card(settings.data, catalogue);
    return line ? `${title}: ${templateWords(line).replace(/\s+/g, ' ').slice(0, 60)}` : title;
  };
  const order = [...steps.keys()];
  const running = live.rows[0] ? placedSteps(live.rows[0].definition).map(({ step }) => step) : [];
  const trials = running.filter((step): step is Step & { trial: Trial } => step.trial !== undefined);
  return {
    ...{ days: asked.days, period: asked.period, within },
    rows: rows
      .map(
        (row): MessageRow => ({
          ...{
            stepId: row.step_id,
            name: nameOf(row.step_id),
            channel: row.channel,
            version: row.version,
            trialId: row.trial,
          },
          ...{ sent: row.sent, delivered: row.channel === 'email' ? null : row.delivered },
          opened: row.channel === 'email' ? (row.counts_opens ? row.opened : null) : null,
          ...{ openedByMachines: row.machines, followed: row.followed, replied: row.replied, booked: row.booked },
          bookedRange: wilson({ did: row.booked, of: row.sent }),
          ...{ left: row.left, subject: row.subject ?? '', text: (row.text ?? '').slice(0, 2000) },
        }),
      )
      .sort((a, b) => place(order, a) - place(order, b) || ((a.version ?? '') < (b.version ?? '') ? -1 : 1)),
    trials: await Promise.all(trials.map((step) => trialView(use, step, nameOf(step.id)))),
  };
}

const place = (order: string[], { stepId }: MessageRow): number => {
  const at = order.indexOf(stepId);
  return at < 0 ? order.length : at;
};

/** How a trial stands: of each version the first so many people whose days are over. */
async function trialView(use: Use, step: Step & { trial: Trial }, name: string): Promise<TrialView> {
  const { trial } = step;
  const { rows } = await use.db.query<{ version: Version; of: number; did: number }>(
    `select version, count(*)::int as of, count(*) filter (where did)::int as did from (
       select d.version, ${happened(trial.goal, '$3')} as did, row_number() over (partition by d.version order by d.accepted_at, d.id) as n from (
         select distinct on (d.lead_id) d.*, d.message -> 'trial' ->> 'version' as version from delivery d
         where d.business_id = $1 and d.step_id = $5 and d.message -> 'trial' ->> 'id' = $2 and d.accepted_at is not null order by d.lead_id, d.accepted_at) d
       where d.accepted_at <= now() - $3::int * interval '1 day') x where n <= $4 group by 1`,
    [use.actor.businessId, trial.id, trial.days, trial.perHalf, step.id],
  );
  const of = (version: Version): Share => {
    const row = rows.find((one) => one.version === version);
    return { did: row?.did ?? 0, of: row?.of ?? 0 };
  };
  const [a, b] = [of('a'), of('b')];
  const verdict = verdictOf(a, b, trial.perHalf);
  return {
    ...{ trial, stepId: step.id, name, a, b, verdict },
    says: verdictWords(
      verdict,
      a,
      b,
      `${TRIAL_GOALS[trial.goal]} within ${trial.days} ${trial.days === 1 ? 'day' : 'days'}`,
    ),
  };
}
