import { v5 as uuidv5 } from 'uuid';
import { checkAnswer } from '../../core/message/check-answer.ts';
import { readReference } from '../../core/template/field-reference.ts';
import type { OutgoingMessage, Question } from '../../core/workflow/plan.ts';
import type { Db } from '../../db/db.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { enqueue } from '../delivery/enqueue.ts';
import { tellOf } from '../runs/tell-of.ts';

export interface OpenQuestion {
  id: string;
  run_id: string;
  step_id: string;
  lead_id: string;
  question: Question;
  times: number;
}

/** The question a lead was asked last on this channel and has not answered; taken for this transaction. */
export async function openQuestion(
  client: Db,
  leadId: string,
  channel: string,
  at: string,
): Promise<OpenQuestion | null> {
  const { rows } = await client.query<OpenQuestion>(
    `select id, run_id, step_id, lead_id, question, times from asked_question
     where lead_id = $1 and channel = $2 and state = 'open' and until > $3 order by asked_at desc limit 1 for update`,
    [leadId, channel, at],
  );
  return rows[0] ?? null;
}

/** They want no more: nothing they were asked is waited for. */
export const closeQuestions = (client: Db, leadId: string): Promise<unknown> =>
  client.query(`update asked_question set state = 'closed', settled_at = now() where lead_id = $1 and state = 'open'`, [
    leadId,
  ]);

/**
 * Takes what a lead wrote as the answer to a question, in the transaction of `client`. What fits becomes a field and the run
 * goes on; what does not is answered by the hint, as often as was allowed, through the outbox.
 */
export async function takeAnswer(
  client: Db,
  asked: OpenQuestion,
  text: string,
  country: string,
  now: number,
  inboundId: string,
): Promise<void> {
  const { question } = asked;
  const answer = checkAnswer(question, text, country);
  const settle = (state: 'answered' | 'given_up') =>
    client.query('update asked_question set state = $2, answer = $3, settled_at = now() where id = $1', [
      asked.id,
      state,
      answer,
    ]);
  const tell = () =>
    tellOf(client, asked.lead_id, { event: 'answer', runId: asked.run_id, stepId: asked.step_id, answer, text });
  if (answer !== null) {
    await settle('answered');
    await keepOnLead(client, asked.lead_id, question.saveAs, answer, inboundId);
    return tell();
  }
  if (asked.times >= question.most) {
    await settle('given_up');
    return tell();
  }
  await client.query('update asked_question set times = times + 1 where id = $1', [asked.id]);
  const before = await client.query<{ message: OutgoingMessage; connection_id: string; business_id: string }>(
    'select message, connection_id, business_id from delivery where id = $1',
    [asked.id],
  );
  const first = before.rows[0];
  if (!first) return;
  const hint = hintMessage(first.message, question.hint);
  await enqueue(client, [
    {
      id: uuidv5(`again:${asked.times}`, asked.id),
      businessId: first.business_id,
      leadId: asked.lead_id,
      stepId: asked.step_id,
      message: hint,
      connectionId: first.connection_id,
      at: new Date(now),
      of: { run: { id: asked.run_id, item: 10 + asked.times } },
    },
  ]);
}

const hintMessage = (asked: OutgoingMessage, hint: string): OutgoingMessage => ({ ...asked, text: hint });

async function keepOnLead(
  client: Db,
  leadId: string,
  reference: string,
  value: string,
  inboundId: string,
): Promise<void> {
  // An answer of nothing takes nothing away.
  if (value === '') return;
  const read = readReference(reference);
  if (read?.group === 'answers')
    await client.query('update lead set answers = answers || jsonb_build_object($2::text, $3::text) where id = $1', [
      leadId,
      read.key,
      value,
    ]);
  // A name is a column of its own; how somebody is reached is not changed by what they write in passing.
  if (read?.group === 'lead' && (read.key === 'first_name' || read.key === 'last_name')) {
    await changedBy(client, { kind: 'inbound', id: inboundId });
    await client.query(`update lead set ${read.key} = $2 where id = $1`, [leadId, value]);
  }
}
