import { v7 as uuidv7 } from 'uuid';
import { factKey } from '../core/condition/evaluate.ts';
import { readEmail } from '../core/message/email-address.ts';
import { readPhone } from '../core/people/phone.ts';
import { phoneZone } from '../core/time/phone-zone.ts';
import { type Definition, placedSteps } from '../core/workflow/definition.ts';
import type { FieldSet, OutgoingMessage } from '../core/workflow/plan.ts';
import { type RunContext, withValues } from '../core/workflow/run-context.ts';
import { Membership } from '../db/entities/business.ts';
import { Delivery } from '../db/entities/run.ts';
import { answerFact } from '../engine/answer-fact.ts';
import { stepPerformers } from '../steps/perform-registry.ts';
import { performSend } from '../steps/performers.ts';
import {
  type Assume,
  type Rehearsal,
  type RehearsedMoment,
  rehearsedSteps,
  rehearse as rehearseSheet,
} from '../steps/rehearse.ts';
import { demand, notHere, Refusal, type Use } from './actor.ts';
import { readSample, sampleChoices, sampleFor } from './sample.ts';
import { findWorkflow } from './workflows.ts';

async function theSample(use: Use, w: Awaited<ReturnType<typeof findWorkflow>>, arrivalId: string | null) {
  const sample = arrivalId ? await readSample(use, arrivalId) : await sampleFor(use, w);
  if (!sample)
    throw new Refusal(409, 'no-sample', 'There is no sample lead yet. Fill in the form once, then rehearse.');
  return sample;
}

/** What a sheet would do, with what only the database knows looked up. Nothing is written, nothing leaves. */
async function rehearseKnowing(
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
    const sent = steps.flatMap(({ plan }) =>
      plan.does === 'send' ? [plan.message.channel === 'text' ? 'Text' : 'Email'] : [],
    );
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

const markTried = (use: Use, id: string) =>
  use.runtime.pool.query('update workflow set tried_revision = revision where id = $1 and business_id = $2', [
    id,
    use.actor.businessId,
  ]);

export interface SentToMe {
  accepted: boolean;
  to: string;
  detail: string;
}

/** Really performs one step, to the coordinator's own test address or number only. */
export async function sendToMe(
  use: Use,
  workflowId: string,
  stepId: string,
  arrivalId: string | null,
): Promise<SentToMe> {
  demand(use.actor, 'coordinator');
  const w = await findWorkflow(use, workflowId);
  const placed = placedSteps(w.draft).find(({ step }) => step.id === stepId);
  if (!placed) throw notHere('step');
  const sample = await theSample(use, w, arrivalId);
  const { desk, accounts } = await use.runtime.directory.deskOf(use.actor.businessId);
  const membership = await use.em.findOneOrFail(Membership, {
    business: use.actor.businessId,
    person: use.actor.personId,
  });
  // The sample's own wishes do not matter here: it goes to the coordinator.
  const context: RunContext = { ...sample.context, consent: { text: 'given', email: 'given' } };
  // Each of the sheet's steps is planned, also in a case this sample would not come to.
  const shown = await rehearseKnowing(use, w.draft, context, { happens: true });
  const plan = rehearsedSteps(shown).find((one) => one.stepId === stepId)?.plan;
  if (plan?.does !== 'send')
    throw new Refusal(
      409,
      'nothing-to-send',
      plan && 'why' in plan ? `Nothing to send: ${plan.why.text}.` : 'This step sends nothing.',
    );
  const message = toCoordinator(plan.message, membership, use.actor);
  const connectionId = message.channel === 'text' ? desk.text!.connectionId : desk.email!.connectionId;
  const delivery = use.em.create(Delivery, {
    id: uuidv7(),
    business: use.actor.businessId,
    run: null,
    stepId,
    item: 0,
    lead: null,
    channel: message.channel,
    audience: 'test',
    recipient: message.to,
    connectionId,
    message: { ...message },
    state: 'sending',
    createdAt: new Date(),
  });
  await use.em.flush();
  const answer = await performSend(use.runtime.outside, accounts.get(connectionId)!, message, delivery.id);
  const accepted = answer.kind === 'accepted';
  await use.runtime.pool.query(
    `update delivery set state = case when reported_at is null then $2 else state end, detail = $3, remote_id = $4, accepted_at = $5 where id = $1`,
    [
      delivery.id,
      accepted ? 'accepted' : 'refused',
      answer.detail,
      accepted ? answer.remoteId : null,
      accepted ? new Date() : null,
    ],
  );
  if (accepted) await markTried(use, workflowId);
  return { accepted, to: message.to, detail: answer.detail };
}

function toCoordinator(
  message: OutgoingMessage,
  membership: { testEmail: string; testPhone: string },
  actor: Use['actor'],
): OutgoingMessage {
  if (message.channel === 'text') {
    const phone = readPhone(membership.testPhone, actor.country);
    if (!phone.ok)
      throw new Refusal(409, 'no-test-number', 'Say first which phone is yours: Settings, "Send it to me".');
    return { ...message, to: phone.e164 };
  }
  const email = readEmail(membership.testEmail);
  if (!email.ok)
    throw new Refusal(409, 'no-test-address', 'Say first which email address is yours: Settings, "Send it to me".');
  // To oneself only: whoever else would get it is left out.
  return { ...message, to: email.address, toName: actor.name, cc: [], bcc: [] };
}
