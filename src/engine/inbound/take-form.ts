import { v5 as uuidv5, v7 as uuidv7 } from 'uuid';
import { storableText } from '../../core/fields/field.ts';
import { answersInWords, CHAT_FORM_MOST, ChatForm, partedAnswers } from '../../core/form/chat-form.ts';
import { checkAnswers } from '../../core/form/check-answers.ts';
import { matchingEmail, readEmail } from '../../core/message/email-address.ts';
import type { FormReport } from '../../core/message/inbound-report.ts';
import { readFormToken } from '../../core/signing/form-token.ts';
import type { ChatMessage } from '../../core/workflow/plan.ts';
import type { Db } from '../../db/db.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';
import { enqueue } from '../delivery/enqueue.ts';
import { endRuns, tellOf } from '../runs/tell-of.ts';

/** The step by which somebody is told that their form could not be taken. */
const FORM_STEP = 'form';
const OLD_MS = CHAT_FORM_MOST.days * 86_400_000;

export interface FormTaken {
  connectionId: string;
  businessId: string;
  country: string;
  /** E.164. */
  sender: string;
  report: FormReport;
  formKey: Uint8Array;
  /** Milliseconds. */
  now: number;
}

/** A form that was sent, as its token names it. */
interface SentRow {
  id: string;
  lead_id: string;
  run_id: string | null;
  step_id: string;
  recipient: string;
  message: ChatMessage;
  /** `test`: somebody tried it on themselves, and it is for no lead. */
  audience: 'lead' | 'test';
  created_at: Date;
  version_id: string;
  form_id: string;
  form_name: string;
  number: number;
  content: ChatForm;
}

/** What became of the answers. `problem` is what the coordinator reads; `tell` is said to the person, empty when nothing is. */
export type FormOutcome =
  | {
      ok: true;
      leadId: string;
      runId: string | null;
      formId: string;
      /** In words, as the conversation shows it. */
      text: string;
      /** Keeps them: fields of the lead, consent with its proof, and whoever waits for them is told. */
      keep(client: Db, inboundId: string): Promise<void>;
    }
  | {
      ok: false;
      code: 'forged' | 'other-number' | 'old' | 'used' | 'answers' | 'trial';
      leadId: string | null;
      problem: string;
      tell: string;
    };

/** Looks the token of a form up, and at the answers, in the transaction of `client`. Nothing is written yet. */
export async function readForm(client: Db, taken: FormTaken): Promise<FormOutcome> {
  const { report, sender, formKey, businessId, country } = taken;
  const refused = (
    code: Extract<FormOutcome, { ok: false }>['code'],
    problem: string,
    tell = '',
    leadId: string | null = null,
  ): FormOutcome => ({ ok: false, code, leadId, problem, tell });
  const id = readFormToken(formKey, report.token);
  if (id === null) return refused('forged', 'Its token is none of ours: it was not taken.');
  const { rows } = await client.query<SentRow>(
    `select d.id, d.lead_id, d.run_id, d.step_id, d.recipient, d.message, d.audience, d.created_at, v.id as version_id, v.form_id, v.number, v.content, f.name as form_name
     from delivery d join chat_form_version v on v.id = (d.message -> 'form' ->> 'versionId')::uuid join chat_form f on f.id = v.form_id
     where d.id = $1 and d.business_id = $2`,
    [id, businessId],
  );
  const sent = rows[0];
  if (!sent || sent.message.form?.remoteId !== report.form)
    return refused('forged', 'Its token belongs to no form we sent: it was not taken.');
  if (sent.audience === 'test')
    return refused('trial', `“${sent.form_name}” was tried by one of us: nothing of it was kept.`);
  const holder = await client.query<{ lead_id: string }>(
    `select lead_id from lead_identity where business_id = $1 and kind = 'phone' and value = $2`,
    [businessId, sender],
  );
  const passedOn = (holder.rows[0]?.lead_id ?? null) !== sent.lead_id;
  if (sent.recipient !== sender || passedOn)
    return refused(
      'other-number',
      'Its token was sent to another number, or the number has changed hands since: it was not taken.',
    );
  const name = sent.form_name;
  const answered = await client.query('select from form_answer where delivery_id = $1', [sent.id]);
  if (answered.rowCount)
    return refused(
      'used',
      `“${name}” had been answered already: it was not taken again.`,
      'We already have your answers to this form. Nothing was changed.',
      sent.lead_id,
    );
  if (Date.parse(report.at) - sent.created_at.getTime() > OLD_MS)
    return refused(
      'old',
      `“${name}” was sent more than ${CHAT_FORM_MOST.days} days ago: it was not taken.`,
      'This form is too old to be taken. Please write to us, and we send you a new one.',
      sent.lead_id,
    );
  const content = ChatForm.parse(sent.content);
  const checked = checkAnswers(content, report.answers, country);
  if (!checked.ok) {
    const [key, wrong] = Object.entries(checked.problems)[0]!;
    const label =
      content.screens.flatMap((screen) => screen.fields).find((field) => field.key === key)?.label ?? 'Consent';
    return refused(
      'answers',
      `“${name}”, ${label}: ${wrong} It was not taken, and they were asked to send it again.`,
      `Something in the form does not fit. ${label}: ${wrong} Please open the form again and send it once more.`,
      sent.lead_id,
    );
  }
  const answers = Object.fromEntries(Object.entries(checked.answers).map(([key, value]) => [key, storableText(value)]));
  const email = readEmail(answers.email ?? '');
  if (email.ok) answers.email = email.address;
  const agreed = content.consent.asked && report.answers.consent === 'true';
  return {
    ok: true,
    leadId: sent.lead_id,
    runId: sent.run_id,
    formId: sent.form_id,
    text: answersInWords(content, answers) || name,
    keep: (at, inboundId) => keep(at, taken, sent, content, answers, agreed, inboundId),
  };
}

async function keep(
  client: Db,
  { businessId, sender, report }: FormTaken,
  sent: SentRow,
  content: ChatForm,
  answers: Record<string, string>,
  agreed: boolean,
  inboundId: string,
): Promise<void> {
  const leadId = sent.lead_id;
  await client.query(
    `insert into form_answer (delivery_id, business_id, lead_id, run_id, step_id, version_id, inbound_id, answers, at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
    [
      ...[sent.id, businessId, leadId, sent.run_id, sent.step_id, sent.version_id, inboundId],
      ...[JSON.stringify(answers), report.at],
    ],
  );
  const { person, rest } = partedAnswers(answers);
  const kept = Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== ''));
  await changedBy(client, { kind: 'inbound', id: inboundId });
  await client.query(
    `update lead set first_name = coalesce(nullif($2, ''), first_name), last_name = coalesce(nullif($3, ''), last_name), email = coalesce(nullif($4, ''), email), answers = answers || $5 where id = $1`,
    [leadId, person.first_name ?? null, person.last_name ?? null, person.email ?? null, JSON.stringify(kept)],
  );
  // An address that is known as somebody else's stays theirs; the lead page offers to make one of the two.
  if (person.email)
    await client.query(
      `insert into lead_identity (business_id, kind, value, lead_id) values ($1, 'email', $2, $3) on conflict do nothing`,
      [businessId, matchingEmail(person.email), leadId],
    );
  if (agreed) {
    const { channels, purposes, wordings, text } = content.consent;
    const wording = wordings.at(-1);
    const both = purposes.length === 2;
    for (const channel of channels)
      for (const purpose of both ? [null] : purposes)
        await client.query(
          `insert into consent (id, business_id, lead_id, channel, purpose, state, wording, how, version, address, inbound_id, at)
           values ($1, $2, $3, $4, $5, 'given', $6, $7, $8, $9, $10, $11)`,
          [
            ...[
              uuidv7(),
              businessId,
              leadId,
              channel,
              purpose,
              wording?.text ?? text,
              `Ticked in the chat form “${sent.form_name}”`,
            ],
            ...[String(wording?.version ?? ''), sender, inboundId, report.at],
          ],
        );
  }
  const text = answersInWords(content, answers) || sent.form_name;
  await endRuns(client, leadId, ['reply'], sent.run_id);
  await tellOf(client, leadId, {
    event: 'form',
    runId: sent.run_id ?? '',
    stepId: sent.step_id,
    answers,
    text,
  });
  await tellOf(client, leadId, { event: 'reply', text });
}

/** Says to somebody why their form was not taken; once for each time they send it. */
export async function tellOfRefusal(
  client: Db,
  { connectionId, businessId, sender, report, now }: FormTaken,
  leadId: string,
  from: string,
  text: string,
): Promise<void> {
  const id = uuidv5(`form-refused:${report.id}`, connectionId);
  const message: ChatMessage = { channel: 'chat', audience: 'lead', to: sender, from, text };
  await enqueue(client, [{ id, businessId, stepId: FORM_STEP, leadId, at: new Date(now), message, connectionId }]);
}
