import { v5 as uuidv5 } from 'uuid';
import { z } from 'zod';
import { CHANNELS } from '../../core/workflow/channel.ts';
import type { OutgoingMessage, Plan } from '../../core/workflow/plan.ts';
import { BY_HAND_STEP } from '../../db/hot/message-kinds.ts';
import { enqueue } from '../../engine/delivery/enqueue.ts';
import { connectionFor, makeDelivery } from '../../engine/delivery/make-delivery.ts';
import { noteMessage } from '../../engine/inbound/conversation.ts';
import { planChat } from '../../steps/plan-chat.ts';
import { planChatTemplate } from '../../steps/plan-chat-template.ts';
import { planEmail } from '../../steps/plan-email.ts';
import { planText } from '../../steps/plan-text.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { findConversation } from './find-conversation.ts';
import { getConversation } from './get-conversation.ts';
import { consentsOf, contextOf, ownerOf } from './message-context.ts';

export const AnswerInput = z
  .object({
    /** Made where it was written: pressed twice, it is one message. */
    key: z.uuid(),
    channel: z.enum(CHANNELS),
    subject: z.string().trim().max(300).default(''),
    text: z.string().trim().max(4096, 'An answer has 4,096 characters at most').default(''),
    /** In chat: an approved template instead of words, which may go though the reply window is shut. */
    template: z.uuid().optional(),
    /** In chat: a form of ours that goes along with the words. */
    form: z.uuid().optional(),
  })
  .refine((input) => input.text !== '' || input.template, { path: ['text'], error: 'The answer is empty' })
  .refine((input) => input.channel === 'chat' || !(input.template || input.form), {
    path: ['channel'],
    error: 'Templates and forms go by chat only',
  });

/** Answers by hand. What a person has been asked not to do is refused here too, and looked at once more before it goes out. */
export async function answerByHand(tx: Write, id: string, input: z.infer<typeof AnswerInput>): Promise<void> {
  demand(tx.actor, 'do-work');
  const { outbox, deliveryParts, now } = tx.runtime;
  const row = await findConversation(tx, id);
  const view = await getConversation(tx, id, false);
  const way = view.ways.find((way) => way.channel === input.channel)!;
  if (!(input.template ? way.byTemplate : way.can)) throw new Refusal(409, 'not-now', way.words);
  // Without a lead there is no way to answer: what went before has refused it.
  const leadId = row.lead_id!;
  const catalogue = await catalogueFor(tx);
  const context = contextOf(tx, row, await consentsOf(tx, leadId), ownerOf(row, catalogue));
  const about = { context, catalogue, now: now(), turn: null };
  const settings = { message: input.text, needsConsent: false, countLinks: false };
  const byChat = (): Plan =>
    input.template
      ? planChatTemplate({ template: input.template, needsConsent: false }, about)
      : planChat({ ...settings, ...(input.form ? { form: input.form } : {}) }, about);
  const plan: Plan =
    input.channel === 'email'
      ? planEmail({ ...settings, subject: input.subject || `Your message to ${tx.actor.businessName}` }, about)
      : input.channel === 'chat'
        ? byChat()
        : planText(settings, about);
  if (plan.does !== 'send')
    throw new Refusal(
      422,
      'cannot',
      'why' in plan ? `${plan.why.text}.` : 'This cannot be sent. Look at what is typed.',
    );
  const connection = connectionFor(catalogue, input.channel)!;
  // Changed after a send that seemed to fail, it is another message: what is on the screen is what goes out.
  const delivery = uuidv5(JSON.stringify(input), id);
  const { message } = makeDelivery(
    {
      id: delivery,
      businessId: tx.actor.businessId,
      runId: null,
      stepId: BY_HAND_STEP,
      item: 0,
      leadId,
      byHand: true,
    },
    {
      ...(input.channel === 'email' ? await inThread(tx, leadId, plan.message) : plan.message),
      countLinks: false,
    },
    connection,
    catalogue.counting,
    deliveryParts,
    now(),
  ).pending;
  const fresh = await enqueue(tx.db, [
    {
      ...{
        id: delivery,
        businessId: tx.actor.businessId,
        leadId,
        stepId: BY_HAND_STEP,
        message,
        connectionId: connection,
      },
      ...{ at: new Date(now()), of: { personId: tx.actor.personId } },
    },
  ]);
  if (!fresh) return;
  await noteMessage(tx.db, {
    businessId: tx.actor.businessId,
    leadId: row.lead_id,
    sender: row.sender,
    channel: input.channel,
    text: message.text,
    fromThem: false,
    at: new Date(now()),
  });
  await tx.db.query('update conversation set unread = 0, typing_by_id = null, typing_until = null where id = $1', [id]);
  tx.note('conversation.answer', id, { channel: input.channel });
  tx.after(() => outbox.poke());
  tx.ring();
}

/** An email that answers one of theirs stands below it in their mail program (RFC 5322 §3.6.4). */
async function inThread(use: Use, leadId: string, message: OutgoingMessage): Promise<OutgoingMessage> {
  const { rows } = await use.db.query<{ id: string }>(
    `select remote_id as id from inbound where lead_id = $1 and channel = 'email' and remote_id like '<%>' order by received_at desc limit 1`,
    [leadId],
  );
  const id = rows[0]?.id;
  if (!id || message.channel !== 'email') return message;
  return { ...message, headers: { ...message.headers, 'In-Reply-To': id, References: id } };
}

export const NoteInput = z.object({ text: z.string().trim().min(1, 'The note is empty').max(5000) });

/** Writes something down that only colleagues see. */
export async function noteOnConversation(tx: Write, id: string, { text }: z.infer<typeof NoteInput>): Promise<void> {
  demand(tx.actor, 'do-work');
  const row = await findConversation(tx, id);
  if (!row.lead_id) throw new Refusal(409, 'no-lead', 'They are no lead yet, so there is nothing to write it on.');
  await tx.db.query(
    'insert into lead_note (id, business_id, lead_id, text, at, author_id) values (gen_random_uuid(), $1, $2, $3, now(), $4)',
    [tx.actor.businessId, row.lead_id, text, tx.actor.personId],
  );
  tx.note('lead.note', row.lead_id);
  tx.ring();
}

export const CannedInput = z.object({
  name: z.string().trim().min(1, 'Give the answer a name').max(60),
  text: z.string().trim().min(1, 'The answer is empty').max(4096),
});

/** Keeps an answer for next time; one of this name is written anew. */
export async function keepAnswer(tx: Write, { name, text }: z.infer<typeof CannedInput>): Promise<{ id: string }> {
  demand(tx.actor, 'do-work');
  const { rows } = await tx.db.query<{ id: string }>(
    `insert into canned_answer (id, business_id, name, text, created_at) values (gen_random_uuid(), $1, $2, $3, now())
     on conflict (business_id, name) where removed_at is null do update set text = excluded.text returning id`,
    [tx.actor.businessId, name, text],
  );
  tx.note('canned_answer.keep', rows[0]!.id, { name });
  return rows[0]!;
}

export async function dropAnswer(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'do-work');
  const { rowCount } = await tx.db.query(
    'update canned_answer set removed_at = $3 where id = $1 and business_id = $2 and removed_at is null',
    [id, tx.actor.businessId, new Date(tx.runtime.now())],
  );
  if (!rowCount) throw notHere('answer');
  tx.note('canned_answer.remove', id);
}
