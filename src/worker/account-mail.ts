import { linkToken } from '../app/account/links.ts';
import { ROLE_WORDS, type Role } from '../core/people/rights.ts';
import { uuidOf } from '../engine/uuid-of.ts';
import { log } from '../log.ts';
import type { Machinery } from '../machinery.ts';
import { emailToColleague } from '../steps/email-to-colleague.ts';
import { performSend } from '../steps/performers.ts';

type Parts = Pick<Machinery, 'pool' | 'bell' | 'settingsCache' | 'outside' | 'settings' | 'secrets' | 'now'>;

interface Letter {
  /** The businesses whose mail server may carry it, the first that has one does. */
  businesses: string[];
  to: { name: string; email: string };
  subject: string;
  text: string;
}

/**
 * Sends the email with a link to whoever is invited, or has forgotten their password. The link is made here and stands nowhere else: it is in no log, no
 * queue and no copy of the database. Thrown out of, the job is tried again; the link stays the same.
 */
export async function sendAccountMail(parts: Parts, what: { invitation?: string; reset?: string }): Promise<void> {
  if (what.invitation) return sendInvitation(parts, what.invitation);
  if (what.reset) return sendReset(parts, what.reset);
}

async function sendInvitation(parts: Parts, id: string): Promise<void> {
  const { pool, secrets, settings, now } = parts;
  const { rows } = await pool.query<{
    business_id: string;
    business: string;
    email: string;
    name: string;
    role: Role;
    round: number;
    inviter: string;
  }>(
    `select i.business_id, b.name as business, i.email, i.name, i.role, i.round, p.name as inviter from invitation i join business b on b.id = i.business_id join person p on p.id = i.by_id
     where i.id = $1 and i.withdrawn_at is null and i.accepted_at is null and i.expires_at > $2 and i.email <> ''`,
    [id, new Date(now())],
  );
  const asked = rows[0];
  if (!asked) return;
  const link = `${settings.publicUrl}/join/${linkToken(secrets, 'invitation', id, asked.round)}`;
  const letter: Letter = {
    businesses: [asked.business_id],
    to: { name: asked.name || asked.email, email: asked.email },
    subject: `${asked.inviter} invites you to ${asked.business} on Pine Bell`,
    text: `${asked.name ? `Hello ${asked.name},\n\n` : ''}${asked.inviter} would like you to join ${asked.business} on Pine Bell as ${ROLE_WORDS[asked.role].name.toLowerCase()}. ${ROLE_WORDS[asked.role].sentence}\n\nThis link is yours alone, and good for seven days:\n${link}\n\nIf you do not know what this is about, leave it be.`,
  };
  const problem = await send(parts, letter, `invitation ${id} ${asked.round}`);
  await pool.query(
    `update invitation set trouble = $3, mailed_at = case when $3 = '' then $4 else mailed_at end where id = $1 and round = $2`,
    [id, asked.round, problem?.words ?? '', new Date(now())],
  );
  parts.bell.ring(asked.business_id);
  if (problem?.again) throw new Error(problem.words);
}

async function sendReset(parts: Parts, id: string): Promise<void> {
  const { pool, secrets, settings, now } = parts;
  const { rows } = await pool.query<{ name: string; email: string; businesses: string[] }>(
    `select p.name, p.email, array(select business_id from membership m where m.person_id = p.id order by m.id) as businesses
     from password_reset r join person p on p.id = r.person_id where r.id = $1 and r.expires_at > $2`,
    [id, new Date(now())],
  );
  const asked = rows[0];
  // Asked for once more meanwhile, used, or run out.
  if (!asked) return;
  const link = `${settings.publicUrl}/new-password/${linkToken(secrets, 'password', id)}`;
  const problem = await send(
    parts,
    {
      businesses: asked.businesses,
      to: asked,
      subject: 'A new password for Pine Bell',
      text: `Hello ${asked.name},\n\nsomebody, probably you, has asked for a new password for Pine Bell. Choose one here within half an hour:\n${link}\n\nIf it was not you, leave this be: your password stays as it is.`,
    },
    `reset ${id}`,
  );
  if (problem?.again) throw new Error(problem.words);
  if (problem) log.warn({ scope: 'account' }, `a link for a new password could not be sent: ${problem.words}`);
}

/** Null when it was handed over. */
async function send(
  { settingsCache, outside }: Parts,
  letter: Letter,
  key: string,
): Promise<{ words: string; again: boolean } | null> {
  for (const business of letter.businesses) {
    const { catalogue, accounts } = await settingsCache.provisionsOf(business);
    const account = catalogue.email ? accounts.get(catalogue.email.connectionId) : undefined;
    if (!catalogue.email || !account) continue;
    const message = emailToColleague(catalogue.email, letter.to, letter.subject, letter.text);
    const answer = await performSend(outside, account, message, uuidOf(key));
    if (answer.kind === 'accepted') return null;
    return { words: answer.detail, again: answer.kind === 'again' };
  }
  return {
    words: 'There is no mail server to send it by. Add one under Connections, or hand the link over.',
    again: false,
  };
}
