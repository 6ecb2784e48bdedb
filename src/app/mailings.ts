import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { compareShares } from '../core/statistics/two-shares.ts';
import { readInstant } from '../core/time/read-instant.ts';
import { BULK_RANK } from '../engine/mailer.ts';
import { EmailSettings } from '../steps/email/definition.ts';
import { audienceOf, type MailingDone, type MailingShared } from '../steps/mailing/definition.ts';
import { audit, demand, notHere, Refusal, type Use } from './actor.ts';
import { deskFor } from './sample.ts';

export interface MailingRow {
  id: string;
  name: string;
  subject: string;
  /** "the list Practice tips". */
  whom: string;
  state: 'draft' | 'planning' | 'trying' | 'sending' | 'stopped';
  /** When it begins, or began. */
  at: string;
  /** Made for, left out, handed over, still to go. */
  planned: number;
  left: number;
  sent: number;
  waiting: number;
  failed: number;
  opened: number;
  followed: number;
  /** Both subjects, when two were tried. */
  tried: {
    a: TriedSubject;
    b: TriedSubject;
    winner: 'a' | 'b' | 'none' | null;
    decideAt: string | null;
    chance: number;
  } | null;
}

export interface TriedSubject {
  subject: string;
  sent: number;
  opened: number;
}

export async function listMailings(use: Use): Promise<MailingRow[]> {
  const desk = await deskFor(use);
  const { rows } = await use.runtime.pool.query(
    `select m.*, count(d.id) filter (where d.accepted_at is not null)::int as sent, count(d.id) filter (where d.state = 'sending')::int as waiting,
       count(d.id) filter (where d.state in ('refused', 'undelivered'))::int as failed,
       count(d.id) filter (where exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened,
       count(d.id) filter (where exists (select from visit v where v.delivery_id = d.id and v.kind = 'link' and not v.machine))::int as followed,
       count(d.id) filter (where d.variant = 'a' and d.accepted_at is not null)::int as sent_a,
       count(d.id) filter (where d.variant = 'b' and d.accepted_at is not null)::int as sent_b,
       count(d.id) filter (where d.variant = 'a' and exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened_a,
       count(d.id) filter (where d.variant = 'b' and exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened_b
     from mailing m left join delivery d on d.mailing_id = m.id where m.business_id = $1 group by m.id order by m.created_at desc limit 50`,
    [use.actor.businessId],
  );
  return rows.map((row) => {
    const { settings } = row.email as MailingDone['email'];
    const [kind, id] = Object.entries(row.audience as Record<string, string>)[0]!;
    const a = { subject: settings.subject, sent: row.sent_a, opened: row.opened_a };
    const b = { subject: row.subject_b, sent: row.sent_b, opened: row.opened_b };
    return {
      id: row.id,
      name: row.name || settings.subject,
      subject: settings.subject,
      whom: audienceOf(`${kind}:${id}`, desk)?.words ?? 'people who are gone',
      state: row.state,
      at: row.planned_at.toISOString(),
      planned: row.planned,
      left: row.left,
      sent: row.sent,
      waiting: row.waiting,
      failed: row.failed,
      opened: row.opened,
      followed: row.followed,
      tried:
        row.subject_b === ''
          ? null
          : {
              a,
              b,
              winner: row.winner,
              decideAt: row.decide_at?.toISOString() ?? null,
              chance: compareShares({ did: a.opened, of: a.sent }, { did: b.opened, of: b.sent }).p,
            },
    };
  });
}

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
export async function sendMailing(use: Use, input: z.infer<typeof MailingInput>): Promise<{ id: string }> {
  demand(use.actor, 'coordinator');
  const desk = await deskFor(use);
  const whom = audienceOf(input.to, desk);
  if (!whom) throw new Refusal(422, 'audience', 'Choose who gets it: a list, a segment or a tag.');
  if (!desk.email)
    throw new Refusal(409, 'no-sender', 'No mail server is connected yet. Connect one under Connections.');
  if (input.email.subject.trim() === '') throw new Refusal(422, 'subject', 'The subject is empty.');
  if (input.email.template === '' && input.email.message.trim() === '')
    throw new Refusal(422, 'message', 'The message is empty.');
  if (input.email.template !== '' && !desk.emailTemplates.some((one) => one.id === input.email.template))
    throw new Refusal(422, 'template', 'The template chosen is no longer there.');
  const { businessName, country, timeZone, holidays } = use.actor;
  const shared: MailingShared = {
    answers: {},
    where: {},
    source: { name: '' },
    found: {},
    happened: {},
    business: { name: businessName, country, timeZone, holidays },
  };
  const begins = input.at === null ? null : readInstant(input.at, country, timeZone);
  if (begins && begins.at < use.runtime.now() - 60_000)
    throw new Refusal(422, 'past', 'The time it begins has passed. Choose a later one, or leave it empty for now.');
  const id = input.id ?? uuidv7();
  const made = await use.runtime.pool.query(
    `insert into mailing (id, business_id, audience, email, name, state, planned_at, created_at, step_id, started_by_id, spread_minutes, subject_b, part, decide_after)
     values ($1, $2, $3, $4, $5, 'planning', coalesce($6, now()), now(), 'mailing', $7, $8, $9, $10, $11) on conflict (id) do nothing`,
    [
      id,
      use.actor.businessId,
      JSON.stringify(whom.audience),
      JSON.stringify({ settings: input.email, shared }),
      input.email.subject,
      begins && new Date(begins.at),
      use.actor.personId,
      input.spreadMinutes,
      input.subjectB,
      input.subjectB === '' ? 0 : input.part,
      input.decideAfter,
    ],
  );
  if (!made.rowCount) {
    // Pressed twice. Changed in between, the first is what goes out, and that must not be taken for the second.
    const same = await use.runtime.pool.query(
      `select from mailing where id = $1 and business_id = $2 and audience = $3::jsonb and email = $4::jsonb and subject_b = $5 and spread_minutes = $6`,
      [
        ...[id, use.actor.businessId, JSON.stringify(whom.audience), JSON.stringify({ settings: input.email, shared })],
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
  audit(use.em, use.actor, 'mailing.send', id, { to: input.to, subject: input.email.subject });
  await use.em.flush();
  return { id };
}

/** Stops the rest of an email to many; what has been handed over cannot be called back. Gives how many did not go. */
export async function stopMailing(use: Use, id: string): Promise<{ kept: number }> {
  demand(use.actor, 'coordinator');
  const { rowCount } = await use.runtime.pool.query(
    `update mailing set state = 'stopped' where id = $1 and business_id = $2 and state <> 'stopped'`,
    [id, use.actor.businessId],
  );
  if (!rowCount) throw notHere('email');
  const stopped = await use.runtime.pool.query(
    `update delivery set state = 'refused', detail = 'The email was stopped', due_at = null where mailing_id = $1 and state = 'sending' and lease_by is null and rank = $2`,
    [id, BULK_RANK],
  );
  audit(use.em, use.actor, 'mailing.stop', id);
  await use.em.flush();
  return { kept: stopped.rowCount ?? 0 };
}
