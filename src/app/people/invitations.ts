import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { mayDo, ROLES, type Role, WHOSE_LEADS, type WhoseLeads, whoseLeads } from '../../core/people/rights.ts';
import { Invitation, Membership, Person, TeamMember } from '../../db/entities/business.ts';
import type { Runtime } from '../../runtime.ts';
import { beginErrand } from '../account/errands.ts';
import { countGuess, networkOf, tooMany } from '../account/guesses.ts';
import { idInToken, isOurs, linkToken } from '../account/links.ts';
import { refuseWeak } from '../account/passwords.ts';
import { demandProof } from '../account/proof.ts';
import { type From, openSession } from '../account/session.ts';
import { hashPassword, provePassword } from '../account/sign-in.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** How long an invitation is good. */
export const INVITATION_DAYS = 7;
const DAY_MS = 86_400_000;
/** Invitations of a business that stand open at most. */
const MOST_OPEN = 200;

export interface InvitationView {
  id: string;
  /** Empty for a link to hand over. */
  email: string;
  name: string;
  role: Role;
  whoseLeads: WhoseLeads;
  teams: string[];
  by: string;
  at: string;
  expiresAt: string;
  state: 'open' | 'run-out' | 'accepted' | 'withdrawn';
  /** When its email went out; null before, and for a link to hand over. */
  mailedAt: string | null;
  trouble: string;
}

/** Those that stand open or have run out, newest first; the others for a month, to see what became of them. */
export async function listInvitations(use: Use): Promise<InvitationView[]> {
  const { rows } = await use.db.query<
    Omit<InvitationView, 'at' | 'expiresAt' | 'mailedAt' | 'state' | 'whoseLeads'> & {
      whose_leads: WhoseLeads;
      created_at: Date;
      expires_at: Date;
      mailed_at: Date | null;
      accepted_at: Date | null;
      withdrawn_at: Date | null;
    }
  >(
    `select i.id, i.email, i.name, i.role, i.whose_leads, i.teams, p.name as by, i.created_at, i.expires_at, i.mailed_at, i.trouble, i.accepted_at, i.withdrawn_at
     from invitation i join person p on p.id = i.by_id where i.business_id = $1 and coalesce(i.accepted_at, i.withdrawn_at, now()) > now() - interval '30 days'
     order by i.created_at desc, i.id limit 500`,
    [use.actor.businessId],
  );
  const now = use.runtime.now();
  return rows.map((row) => ({
    ...{ id: row.id, email: row.email, name: row.name, role: row.role, whoseLeads: row.whose_leads, teams: row.teams },
    ...{ by: row.by, at: row.created_at.toISOString(), expiresAt: row.expires_at.toISOString() },
    ...{ mailedAt: row.mailed_at?.toISOString() ?? null, trouble: row.trouble },
    state: row.accepted_at
      ? 'accepted'
      : row.withdrawn_at
        ? 'withdrawn'
        : row.expires_at.getTime() <= now
          ? 'run-out'
          : 'open',
  }));
}

export const NewInvitation = z.object({
  /** Empty for a link to hand over. */
  email: z
    .union([z.literal(''), z.email('This email address is not complete')])
    .transform((email) => email.toLowerCase()),
  name: z.string().trim().max(200).default(''),
  role: z.enum(ROLES),
  whoseLeads: z.enum(WHOSE_LEADS).default('all'),
  teams: z.array(z.uuid()).max(50).default([]),
});

/** What a link to hand over leads to. */
const addressOf = (tx: Write, { id, round }: { id: string; round: number }): string =>
  `${tx.runtime.settings.publicUrl}/join/${linkToken(tx.runtime.secrets, 'invitation', id, round)}`;

const mail = (tx: Write, id: string) =>
  tx.db.query(
    `select graphile_worker.add_job('account_mail', json_build_object('invitation', $1::text), job_key := 'invitation ' || $1, max_attempts := 12)`,
    [id],
  );

async function inTeamsOf(tx: Write, teams: readonly string[]): Promise<void> {
  const { rows } = await tx.db.query<{ n: number }>(
    'select count(*)::int as n from team where business_id = $1 and id = any($2::uuid[])',
    [tx.actor.businessId, teams],
  );
  if (rows[0]!.n !== new Set(teams).size)
    throw new Refusal(422, 'team', 'One of these teams is no longer there. Choose again.');
}

/** Invites somebody: by email, or by a link that is handed over, which is told here and nowhere else. */
export async function invite(
  tx: Write,
  input: z.infer<typeof NewInvitation>,
): Promise<{ id: string; link: string | null }> {
  demand(tx.actor, 'people');
  // Who may do as much as oneself is not let in by whoever passes a screen that was left open.
  if (mayDo(input.role, 'manage')) demandProof(tx);
  const { businessId, personId } = tx.actor;
  await inTeamsOf(tx, input.teams);
  // Of two who invite the same person at once, one waits and is told.
  await tx.db.query('select from business where id = $1 for update', [businessId]);
  const now = new Date(tx.runtime.now());
  const open = await tx.em.find(Invitation, {
    ...{ business: businessId, acceptedAt: null, withdrawnAt: null },
    expiresAt: { $gt: now },
  });
  if (open.length >= MOST_OPEN)
    throw new Refusal(422, 'too-many', 'So many invitations stand open already. Withdraw some first.');
  if (input.email !== '') {
    if (await tx.em.findOne(Membership, { business: businessId, person: { email: input.email } }))
      throw new Refusal(422, 'here-already', `${input.email} belongs to this business already.`);
    if (open.some(({ email }) => email === input.email))
      throw new Refusal(
        422,
        'invited',
        `${input.email} is invited already. Send that invitation again, or withdraw it.`,
      );
  }
  const id = uuidv7();
  tx.em.create(Invitation, {
    ...{ id, business: businessId, by: personId, email: input.email, name: input.name, role: input.role },
    ...{ whoseLeads: whoseLeads(input.role, input.whoseLeads), teams: [...new Set(input.teams)] },
    ...{ createdAt: now, expiresAt: new Date(now.getTime() + INVITATION_DAYS * DAY_MS) },
  });
  await tx.em.flush();
  const { email, name, role } = input;
  tx.note('invitation.make', id, { email, name, role });
  if (input.email === '') return { id, link: addressOf(tx, { id, round: 0 }) };
  await mail(tx, id);
  return { id, link: null };
}

async function openOne(tx: Write, id: string) {
  const { rows } = await tx.db.query<{ id: string; email: string; round: number }>(
    'select id, email, round from invitation where id = $1 and business_id = $2 and accepted_at is null and withdrawn_at is null for update',
    [id, tx.actor.businessId],
  );
  if (!rows[0]) throw notHere('invitation');
  return rows[0];
}

/** Sends an invitation again, with a new link that is good for seven days from now; the older one no longer is. */
export async function inviteAgain(tx: Write, id: string): Promise<{ link: string | null }> {
  demand(tx.actor, 'people');
  const { email, round } = await openOne(tx, id);
  const expires = new Date(tx.runtime.now() + INVITATION_DAYS * DAY_MS);
  await tx.db.query(
    `update invitation set round = round + 1, expires_at = $2, mailed_at = null, trouble = '' where id = $1`,
    [id, expires],
  );
  tx.note('invitation.again', id, { email });
  if (email === '') return { link: addressOf(tx, { id, round: round + 1 }) };
  await mail(tx, id);
  return { link: null };
}

/** Whoever follows its link from now on is not let in. */
export async function withdrawInvitation(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'people');
  const { email } = await openOne(tx, id);
  await tx.db.query('update invitation set withdrawn_at = now() where id = $1', [id]);
  tx.note('invitation.withdraw', id, { email });
}

export interface Asked {
  businessName: string;
  inviter: string;
  role: Role;
  /** Whom it was sent to; empty for a link that was handed over. */
  email: string;
  name: string;
  /** Whoever has this address signs in already, and proves it is them by their password. */
  known: boolean;
}

const noLonger = () =>
  new Refusal(
    404,
    'link',
    'This invitation is no longer good: it was used, has run out or was withdrawn. Ask whoever invited you for another.',
  );

interface OpenInvitation extends Omit<Asked, 'known'> {
  id: string;
  businessId: string;
  whoseLeads: WhoseLeads;
  teams: string[];
}

async function byToken(runtime: Runtime, token: string): Promise<OpenInvitation> {
  const id = idInToken(token);
  if (id === null) throw noLonger();
  const { rows } = await runtime.pool.query<OpenInvitation & { round: number }>(
    `select i.id, i.business_id as "businessId", b.name as "businessName", p.name as inviter, i.role, i.whose_leads as "whoseLeads", i.teams, i.email, i.name, i.round
     from invitation i join business b on b.id = i.business_id join person p on p.id = i.by_id
     where i.id = $1 and i.accepted_at is null and i.withdrawn_at is null and i.expires_at > $2`,
    [id, new Date(runtime.now())],
  );
  if (!rows[0] || !isOurs(runtime.secrets, 'invitation', token, rows[0])) throw noLonger();
  return rows[0];
}

/** What an invitation is about, for whoever has its link. */
export async function lookAtInvitation(runtime: Runtime, token: string): Promise<Asked> {
  const { businessName, inviter, role, email, name } = await byToken(runtime, token);
  const known = email !== '' && (await runtime.orm.em.fork().findOne(Person, { email })) !== null;
  return { businessName, inviter, role, email, name, known };
}

export const Acceptance = z.object({
  name: z.string().trim().max(200, 'This name is too long'),
  email: z.email('Your email address is not complete').transform((email) => email.toLowerCase()),
  password: z.string().min(1, 'Type a password').max(1000),
});

/**
 * Lets in whoever follows an invitation: with a sign-in of their own they prove by their password that it is them, without one they choose it now. Good
 * once: of two who follow one link at the same time, the later is refused.
 */
export async function acceptInvitation(
  runtime: Runtime,
  token: string,
  input: z.infer<typeof Acceptance>,
  from: From,
): Promise<{ cookie: string } | { second: string }> {
  const asked = await byToken(runtime, token);
  // The address an invitation went to is the one it is for.
  const email = asked.email || input.email;
  if ((await countGuess(runtime, `join:${networkOf(from.address)}`)) > 60) throw tooMany('attempts from here');
  const person = await runtime.orm.em.fork().findOne(Person, { email });
  if (person) {
    if (!(await provePassword(runtime, { email, password: input.password, from })))
      throw new Refusal(401, 'wrong', `${email} has a sign-in here already: type the password you have.`);
  } else {
    if (input.name === '') throw new Refusal(422, 'name', 'Say your name.');
    refuseWeak(input.password, [input.name, email, asked.businessName]);
  }
  const passwordHash = person ? '' : await hashPassword(input.password);
  const now = new Date(runtime.now());
  const personId = await runtime.orm.em.fork().transactional(async (em) => {
    const { affectedRows } = await em.execute<{ affectedRows: number }>(
      'update invitation set accepted_at = ? where id = ? and accepted_at is null and withdrawn_at is null and expires_at > ?',
      [now, asked.id, now],
      'run',
    );
    if (affectedRows === 0) throw noLonger();
    const id = person?.id ?? uuidv7();
    if (!person) em.create(Person, { id, email, name: input.name, passwordHash, createdAt: now });
    else if (await em.findOne(Membership, { business: asked.businessId, person: id }))
      throw new Refusal(409, 'here-already', `You belong to ${asked.businessName} already: sign in.`);
    const membership = em.create(Membership, {
      ...{ id: uuidv7(), business: asked.businessId, person: id, role: asked.role },
      ...{ whoseLeads: asked.whoseLeads, testEmail: email },
    });
    // A team may be gone since.
    const { rows: teams } = {
      rows: await em.execute<{ id: string }[]>('select id from team where business_id = ? and id = any(?::uuid[])', [
        asked.businessId,
        `{${asked.teams.join(',')}}`,
      ]),
    };
    for (const team of teams) em.create(TeamMember, { team: team.id, membership });
    await em.flush();
    await em.execute(
      `insert into audit (id, business_id, person_id, at, action, subject, detail) values (gen_random_uuid(), ?, ?, now(), 'invitation.accept', ?, ?)`,
      [asked.businessId, id, asked.id, JSON.stringify({ role: asked.role })],
    );
    return id;
  });
  runtime.settingsCache.forget();
  runtime.bell.ring(asked.businessId);
  // Whoever uses codes of their phone shows one here, too.
  if (person?.totp) return { second: await beginErrand(runtime, 'second', { person: personId }) };
  return { cookie: await openSession(runtime, personId, asked.businessId, from) };
}
