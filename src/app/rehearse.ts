import { v7 as uuidv7 } from 'uuid';
import { readEmail } from '../core/message/email-address.ts';
import { readPhone } from '../core/people/phone.ts';
import { placedSteps } from '../core/workflow/definition.ts';
import type { OutgoingMessage } from '../core/workflow/plan.ts';
import type { RunContext } from '../core/workflow/run-context.ts';
import { Membership } from '../db/entities/business.ts';
import { Delivery } from '../db/entities/run.ts';
import { performSend } from '../steps/performers.ts';
import { type Rehearsed, rehearseSheet } from '../steps/plan-step.ts';
import { demand, notHere, Refusal, type Use } from './actor.ts';
import { readSample, sampleFor } from './sample.ts';
import { findWorkflow } from './workflows.ts';

async function theSample(use: Use, w: Awaited<ReturnType<typeof findWorkflow>>, arrivalId: string | null) {
  const sample = arrivalId ? await readSample(use, arrivalId) : await sampleFor(use, w);
  if (!sample)
    throw new Refusal(409, 'no-sample', 'There is no sample lead yet. Fill in the form once, then rehearse.');
  return sample;
}

export async function rehearse(
  use: Use,
  workflowId: string,
  arrivalId: string | null,
): Promise<{ name: string; steps: Rehearsed[] }> {
  const w = await findWorkflow(use, workflowId);
  const sample = await theSample(use, w, arrivalId);
  const { desk } = await use.runtime.directory.deskOf(use.actor.businessId);
  const steps = rehearseSheet(w.draft, sample.context, desk);
  await markTried(use, workflowId);
  return { name: `${sample.context.person.first_name} ${sample.context.person.last_name}`.trim(), steps };
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
  const plan = rehearseSheet(w.draft, context, desk).find((one) => one.stepId === stepId)?.plan;
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
  return { ...message, to: email.address, toName: actor.name };
}
