import { v7 as uuidv7 } from 'uuid';
import { readEmail } from '../../core/message/email-address.ts';
import { identitiesOf } from '../../core/people/identity.ts';
import { readPhone } from '../../core/people/phone.ts';
import { readAs } from '../../core/read-as.ts';
import { makeFormToken } from '../../core/signing/form-token.ts';
import { placedSteps, type Step } from '../../core/workflow/definition.ts';
import type { OutgoingMessage, Plan } from '../../core/workflow/plan.ts';
import { RefusedWork } from '../../core/workflow/refused-work.ts';
import { allConsents, type RunContext, type RunPerson, startContext } from '../../core/workflow/run-context.ts';
import type { Db } from '../../db/db.ts';
import { Membership } from '../../db/entities/business.ts';
import { Delivery } from '../../db/entities/run.ts';
import { connectionFor } from '../../engine/delivery/make-delivery.ts';
import { EmailSettings } from '../../steps/email/definition.ts';
import { stepPerformers } from '../../steps/perform-registry.ts';
import { performSend } from '../../steps/performers.ts';
import { planEmail } from '../../steps/plan-email.ts';
import { planStep } from '../../steps/plan-step.ts';
import { rehearsedSteps } from '../../steps/rehearse.ts';
import { recordWhat } from '../../steps/step-performer.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { markTried, rehearseKnowing, theSample } from './rehearse.ts';
import { findWorkflow } from './workflows.ts';

export interface SentToMe {
  accepted: boolean;
  /** Where it went, or what it was done to. */
  to: string;
  detail: string;
  /** Where to look. */
  look: { href: string; words: string } | null;
}

/** Where the coordinator's own tests go. */
interface Mine {
  testEmail: string;
  testPhone: string;
}
type Work = Extract<Plan, { what: unknown }>;

/**
 * Really performs one step once, for the coordinator alone: a message goes to their own test address or number, what is put on
 * record is put on their own record, a call is made.
 */
export async function sendToMe(
  use: Use,
  workflowId: string,
  stepId: string,
  arrivalId: string | null,
): Promise<SentToMe> {
  demand(use.actor, 'build');
  const w = await findWorkflow(use, workflowId);
  const placed = placedSteps(w.draft).find(({ step }) => step.id === stepId);
  if (!placed) throw notHere('step');
  const sample = await theSample(use, w, arrivalId);
  const mine: Mine = await use.em.findOneOrFail(Membership, {
    business: use.actor.businessId,
    person: use.actor.personId,
  });
  // The sample's own wishes do not matter here: it goes to the coordinator.
  const consent = allConsents({ text: 'given', email: 'given', chat: 'given' });
  const { person } = sample.context;
  // A sample that cannot be reached, such as news in which there is nobody, is tried at the coordinator's own addresses.
  const reached = { ...person, email: person.email || mine.testEmail, phone: person.phone || mine.testPhone };
  const context: RunContext = {
    ...sample.context,
    person: reached,
    consent,
    marketing: consent,
    lastChatAt: use.runtime.now(),
  };
  // Each of the sheet's steps is planned, also in a case this sample would not come to.
  const shown = await rehearseKnowing(use, w.draft, context, { happens: true, justCameIn: true });
  const plan = await ownPlan(
    use,
    placed.step,
    context,
    rehearsedSteps(shown).find((rehearsed) => rehearsed.stepId === stepId)?.plan,
  );
  let came: SentToMe;
  if (plan?.does === 'send') came = await send(use, stepId, toCoordinator(plan.message, mine, use.actor));
  else if (plan?.does === 'look' || plan?.does === 'call')
    came = await work(use, workflowId, placed.step, plan, context, mine);
  else if (plan?.does === 'record') {
    // Done for oneself, it is about oneself: a row with the sample's name would stand in the real sheet.
    const own: RunContext = { ...context, person: myself(use, mine) };
    const { catalogue } = await use.runtime.settingsCache.provisionsOf(use.actor.businessId);
    const mineOwn = planStep({ ...placed.step, onlyIf: null }, own, catalogue, use.runtime.now());
    came = await work(use, workflowId, placed.step, mineOwn.does === 'record' ? mineOwn : plan, own, mine);
  } else
    throw new Refusal(
      409,
      'nothing-to-do',
      plan && 'why' in plan ? `Nothing to do: ${plan.why.text}.` : 'This step does nothing outside the sheet.',
    );
  if (came.accepted) await markTried(use, workflowId);
  return came;
}

/** One email to many, tried as the one it would be for the coordinator. */
export async function mailingToMe(use: Use, settings: EmailSettings): Promise<SentToMe> {
  demand(use.actor, 'build');
  const { actor } = use;
  const mine: Mine = await use.em.findOneOrFail(Membership, { business: actor.businessId, person: actor.personId });
  const person = myself(use, mine);
  const context = startContext({ person, answers: {} }, person, {
    where: {},
    business: { name: actor.businessName, country: actor.country, timeZone: actor.timeZone, holidays: actor.holidays },
    source: { name: '' },
    consent: allConsents({ email: 'given' }),
    marketing: allConsents({ email: 'given' }),
  });
  const { catalogue } = await use.runtime.settingsCache.provisionsOf(actor.businessId);
  const plan = planEmail(settings, { context, catalogue, now: use.runtime.now(), turn: null });
  if (plan.does !== 'send')
    throw new Refusal(409, 'nothing-to-do', 'why' in plan ? `Nothing to send: ${plan.why.text}.` : 'Nothing to send.');
  return send(use, 'mailing', toCoordinator(plan.message, mine, actor));
}

/** The coordinator as the person something is about. */
function myself({ actor }: Use, mine: Mine): RunPerson {
  const [first = '', ...rest] = actor.name.split(' ');
  return { first_name: first, last_name: rest.join(' '), email: mine.testEmail, phone: mine.testPhone };
}

/** An email to many is tried as the one email it is, to the coordinator. */
async function ownPlan(use: Use, step: Step, context: RunContext, plan: Plan | undefined): Promise<Plan | undefined> {
  const settings = step.kind === 'mailing' ? readAs(EmailSettings, step.settings) : null;
  if (!settings?.success || plan?.does !== 'record') return plan;
  const { catalogue } = await use.runtime.settingsCache.provisionsOf(use.actor.businessId);
  return planEmail(settings.data, { context, catalogue, now: use.runtime.now(), turn: null });
}

async function send(use: Use, stepId: string, message: OutgoingMessage): Promise<SentToMe> {
  const { catalogue, accounts } = await use.runtime.settingsCache.provisionsOf(use.actor.businessId);
  // Its plan was made with these very accounts: there is a connection.
  const connectionId = connectionFor(catalogue, message.channel)!;
  const id = uuidv7();
  await use.write(async (tx) => {
    tx.em.create(Delivery, {
      id,
      business: tx.actor.businessId,
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
    tx.note('message.try', id, { step: stepId });
  });
  const answer = await performSend(
    use.runtime.outside,
    accounts.get(connectionId)!,
    withTrialToken(use, message, id),
    id,
  );
  const accepted = answer.kind === 'accepted';
  await use.db.query(
    `update delivery set state = case when reported_at is null then $2 else state end, detail = $3, remote_id = $4, accepted_at = $5 where id = $1`,
    [
      id,
      accepted ? 'accepted' : 'refused',
      answer.detail,
      accepted ? answer.remoteId : null,
      accepted ? new Date() : null,
    ],
  );
  return { accepted, to: message.to, detail: answer.detail, look: null };
}

/** A form that is tried brings a token back like any other; what it answers is not kept. */
const withTrialToken = (use: Use, message: OutgoingMessage, deliveryId: string): OutgoingMessage =>
  message.channel === 'chat' && message.form
    ? {
        ...message,
        form: { ...message.form, token: makeFormToken(use.runtime.deliveryParts.linkKey, deliveryId) },
      }
    : message;

/** Does what a plan says for the coordinator as a lead. */
async function work(
  use: Use,
  workflowId: string,
  step: Step,
  plan: Work,
  context: RunContext,
  mine: Mine,
): Promise<SentToMe> {
  const { actor, runtime } = use;
  const performer = stepPerformers.get(step.kind);
  const about = {
    businessId: actor.businessId,
    leadId: '',
    runId: null,
    workflowId,
    stepId: step.id,
    key: uuidv7(),
    now: runtime.now(),
    context,
    // Nobody's run is woken by a try.
    tell: async () => {},
    join: async () => 'joined' as const,
    leave: async () => true,
  };
  if (plan.does === 'call') {
    const answer = await performer!.call!(runtime.outside, plan.what, about);
    const told = answer.kind === 'accepted' ? (answer.told ?? '') : '';
    const kept =
      answer.kind === 'accepted' && !told
        ? (answer.results ?? []).flatMap(({ value }) => (value === '' ? [] : [value])).join(', ')
        : told;
    const detail = [answer.detail, kept].filter(Boolean).join(': ').slice(0, 1000);
    return { accepted: answer.kind === 'accepted', to: plan.words, detail, look: null };
  }
  if (plan.does === 'look') {
    const { detail, results } = await performer!.look!(runtime.pool, plan.what, about);
    const found = results.flatMap(({ value }) => (value === '' ? [] : [value]));
    return { accepted: true, to: plan.words, detail: [detail, ...found].join(': ').slice(0, 300), look: null };
  }
  try {
    return await use.write(async ({ db: client }) => {
      const leadId = await ownLead(client, use, mine);
      const { detail } = await recordWhat(performer!, client, plan.what, { ...about, leadId });
      const tab = (plan.what as { tab?: unknown }).tab;
      const sheet =
        typeof tab === 'string'
          ? (await client.query<{ sheet_id: string }>('select sheet_id from sheet_tab where id = $1', [tab])).rows[0]
          : undefined;
      const look = sheet
        ? { href: `/sheets/${sheet.sheet_id}`, words: 'Look in the sheet' }
        : { href: `/leads/${leadId}`, words: 'Look at your own page' };
      return { accepted: true, to: plan.words, detail, look };
    });
  } catch (error) {
    if (!(error instanceof RefusedWork)) throw error;
    return { accepted: false, to: plan.words, detail: error.message, look: null };
  }
}

/** The coordinator as a lead: the one with their test address or number, made when there is none. */
async function ownLead(client: Db, { actor }: Use, mine: Mine): Promise<string> {
  const ways = identitiesOf({ email: mine.testEmail, phone: mine.testPhone }, actor.country);
  if (ways.length === 0)
    throw new Refusal(
      409,
      'no-test-address',
      'Say first which email address is yours: Settings, You, “Where you are reached”.',
    );
  const known = await client.query<{ lead_id: string }>(
    'select lead_id from lead_identity where business_id = $1 and kind = any($2) and value = any($3) limit 1',
    [actor.businessId, ways.map((way) => way.kind), ways.map((way) => way.value)],
  );
  if (known.rows[0]) return known.rows[0].lead_id;
  const id = uuidv7();
  const [first = '', ...rest] = actor.name.split(' ');
  await client.query(
    `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at, is_person)
     values ($1, $2, $3, $4, $5, $6, '{}', now(), now(), true)`,
    [id, actor.businessId, first, rest.join(' '), mine.testEmail, mine.testPhone],
  );
  for (const way of ways)
    await client.query(
      'insert into lead_identity (business_id, kind, value, lead_id) values ($1, $2, $3, $4) on conflict do nothing',
      [actor.businessId, way.kind, way.value, id],
    );
  return id;
}

function toCoordinator(message: OutgoingMessage, mine: Mine, actor: Use['actor']): OutgoingMessage {
  if (message.channel !== 'email') {
    const phone = readPhone(mine.testPhone, actor.country);
    if (!phone.ok)
      throw new Refusal(
        409,
        'no-test-number',
        'Say first which phone is yours: Settings, You, “Where you are reached”.',
      );
    return { ...message, to: phone.e164 };
  }
  const email = readEmail(mine.testEmail);
  if (!email.ok)
    throw new Refusal(
      409,
      'no-test-address',
      'Say first which email address is yours: Settings, You, “Where you are reached”.',
    );
  // To oneself only: whoever else would get it is left out.
  return { ...message, to: email.address, toName: actor.name, cc: [], bcc: [] };
}
