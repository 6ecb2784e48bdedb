import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { readInstant } from '../../core/time/read-instant.ts';
import { BULK_RANK } from '../../db/hot/message-kinds.ts';
import { EmailSettings } from '../../steps/email/definition.ts';
import { audienceOf, type MailingShared } from '../../steps/mailing/definition.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';

export const MailingInput = z.object({
  /** Made where it was written: pressed twice, it is one email. */
  id: z.uuid().optional(),
  /** "list:ID", "tag:ID" or "segment:ID". */
  to: z.string().max(80),
  email: EmailSettings,
  /** When it begins by the business's clock, "2026-11-26T09:00"; null for at once. */
  at: z.iso.datetime({ local: true }).nullable().default(null),
  spreadMinutes: z
    .number()
    .int()
    .min(0)
    .max(7 * 24 * 60)
    .default(0),
  subjectB: z.string().trim().max(500).default(''),
  /** Percent of the readers the two subjects are tried on, both together. */
  part: z.number().int().min(0).max(100).default(20),
  decideAfter: z
    .number()
    .int()
    .min(10)
    .max(7 * 24 * 60)
    .default(240),
});

/** Sends one email to a list, a segment or a tag, at its time and over its hours; of two subjects the better one goes to the rest. */
export async function sendMailing(tx: Write, input: z.infer<typeof MailingInput>): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  const catalogue = await catalogueFor(tx);
  const whom = audienceOf(input.to, catalogue);
  if (!whom) throw new Refusal(422, 'audience', 'Choose who gets it: a list, a segment or a tag.');
  if (!catalogue.email)
    throw new Refusal(409, 'no-sender', 'No mail server is connected yet. Connect one under Connections.');
  if (input.email.subject.trim() === '') throw new Refusal(422, 'subject', 'The subject is empty.');
  if (input.email.template === '' && input.email.message.trim() === '')
    throw new Refusal(422, 'message', 'The message is empty.');
  if (
    input.email.template !== '' &&
    !catalogue.emailTemplates.some((emailTemplate) => emailTemplate.id === input.email.template)
  )
    throw new Refusal(422, 'template', 'The template chosen is no longer there.');
  const { businessName, country, timeZone, holidays, locale } = tx.actor;
  const shared: MailingShared = {
    answers: {},
    where: {},
    source: { name: '' },
    found: {},
    happened: {},
    business: { name: businessName, country, timeZone, holidays, locale },
  };
  const begins = input.at === null ? null : readInstant(input.at, country, timeZone);
  if (begins && begins.at < tx.runtime.now() - 60_000)
    throw new Refusal(422, 'past', 'The time it begins has passed. Choose a later one, or leave it empty for now.');
  const id = input.id ?? uuidv7();
  const made = await tx.db.query(
    `insert into mailing (id, business_id, audience, email, name, state, planned_at, created_at, step_id, started_by_id, spread_minutes, subject_b, part, decide_after)
     values ($1, $2, $3, $4, $5, 'planning', coalesce($6, now()), now(), 'mailing', $7, $8, $9, $10, $11) on conflict (id) do nothing`,
    [
      id,
      tx.actor.businessId,
      JSON.stringify(whom.audience),
      JSON.stringify({ settings: input.email, shared }),
      input.email.subject,
      begins && new Date(begins.at),
      tx.actor.personId,
      input.spreadMinutes,
      input.subjectB,
      input.subjectB === '' ? 0 : input.part,
      input.decideAfter,
    ],
  );
  if (!made.rowCount) {
    // Pressed twice. Changed in between, the first is what goes out, and that must not be taken for the second.
    const same = await tx.db.query(
      `select from mailing where id = $1 and business_id = $2 and audience = $3::jsonb and email = $4::jsonb and subject_b = $5 and spread_minutes = $6`,
      [
        ...[id, tx.actor.businessId, JSON.stringify(whom.audience), JSON.stringify({ settings: input.email, shared })],
        ...[input.subjectB, input.spreadMinutes],
      ],
    );
    if (same.rowCount) return { id };
    throw new Refusal(
      409,
      'planned',
      'This email has been planned already, as it was before you changed it. Look at it under Messages: it can be stopped there, and written anew.',
    );
  }
  tx.note('mailing.send', id, { to: input.to, subject: input.email.subject });
  return { id };
}

/** Stops the rest of an email to many; what has been handed over cannot be called back. Gives how many did not go. */
export async function stopMailing(tx: Write, id: string): Promise<{ kept: number }> {
  demand(tx.actor, 'build');
  const { rowCount } = await tx.db.query(
    `update mailing set state = 'stopped' where id = $1 and business_id = $2 and state <> 'stopped'`,
    [id, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('email');
  const stopped = await tx.db.query(
    `update delivery set state = 'refused', detail = 'The email was stopped', due_at = null where mailing_id = $1 and state = 'sending' and lease_by is null and rank = $2`,
    [id, BULK_RANK],
  );
  tx.note('mailing.stop', id);
  return { kept: stopped.rowCount ?? 0 };
}
