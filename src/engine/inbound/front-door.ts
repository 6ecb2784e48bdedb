import { v5 as uuidv5 } from 'uuid';
import type { FrontDoor } from '../../core/message/front-door.ts';
import { makeFormToken } from '../../core/signing/form-token.ts';
import { allConsents, type RunPerson, startContext } from '../../core/workflow/run-context.ts';
import type { Db } from '../../db/db.ts';
import { planChat } from '../../steps/plan-chat.ts';
import { enqueue } from '../delivery/enqueue.ts';
import type { KnownBusiness, Provisions } from '../settings-cache.ts';

/** The step messages at the front door are told by. */
export const DOOR_STEP = 'front-door';

export interface AtTheDoor {
  business: KnownBusiness;
  catalogue: Provisions['catalogue'];
  connectionId: string;
  door: FrontDoor;
  leadId: string;
  /** What they wrote, by the network's id: answered once, however often it is told. */
  remoteId: string;
  /** Milliseconds: by our own clock, not the network's. */
  now: number;
  formKey: Uint8Array;
}

/** Whether they have filled in the first-contact form, in any of its versions. */
export async function isThrough(client: Db, formId: string, leadId: string): Promise<boolean> {
  const { rowCount } = await client.query(
    `select from form_answer a join chat_form_version v on v.id = a.version_id where a.lead_id = $1 and v.form_id::text = $2 limit 1`,
    [leadId, formId],
  );
  return rowCount === 1;
}

/** Sends the first-contact form, unless it went to them within the last minutes. */
export async function sendTheForm(client: Db, at: AtTheDoor): Promise<void> {
  const { rowCount } = await client.query(
    `select from delivery where lead_id = $1 and step_id = $2 and message -> 'form' is not null and created_at > $3::timestamptz - $4::int * interval '1 minute' limit 1`,
    [at.leadId, DOOR_STEP, new Date(at.now), at.door.everyMinutes],
  );
  if (!rowCount) await say(client, at, 'form', at.door.message, at.door.form);
}

/** Greets somebody who has just come through, by name. */
export async function greet(client: Db, at: AtTheDoor): Promise<void> {
  if (at.door.greeting !== '') await say(client, at, 'greeting', at.door.greeting, '');
}

async function say(
  client: Db,
  { business, catalogue, connectionId, leadId, remoteId, now, formKey }: AtTheDoor,
  what: 'form' | 'greeting',
  message: string,
  form: string,
): Promise<void> {
  const { rows } = await client.query<RunPerson & { answers: Record<string, string> }>(
    'select first_name, last_name, email, phone, answers from lead where id = $1',
    [leadId],
  );
  const { answers, ...person } = rows[0]!;
  const context = startContext({ person, answers }, person, {
    where: {},
    business,
    source: { name: '' },
    consent: allConsents(),
    lastChatAt: now,
  });
  const plan = planChat({ message, form, needsConsent: false }, { context, catalogue, now, turn: null });
  if (plan.does !== 'send' || plan.message.channel !== 'chat') return;
  const id = uuidv5(`${what}:${remoteId}`, connectionId);
  const sent = plan.message.form
    ? { ...plan.message, form: { ...plan.message.form, token: makeFormToken(formKey, id) } }
    : plan.message;
  const row = { id, businessId: business.id, stepId: DOOR_STEP, leadId, at: new Date(now) };
  await enqueue(client, [{ ...row, message: sent, connectionId }]);
}
