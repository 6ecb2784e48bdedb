import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { passwordWeakness } from '../../core/people/password-strength.ts';
import { Person } from '../../db/entities/business.ts';
import type { Runtime } from '../../runtime.ts';
import { demandOneself } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { countGuess, networkOf, tooMany } from './guesses.ts';
import { idInToken, isOurs } from './links.ts';
import { endOtherSessions, type From, noteSignIn } from './session.ts';
import { hashPassword, provePassword } from './sign-in.ts';

/** How long a link for a new password is good. */
export const RESET_MINUTES = 30;
/** How often it is asked for in a quarter of an hour: for one address, after which nothing more goes out; from one network. */
const MOST = { address: 4, network: 20 };

/** Says what is wrong with a chosen password. */
export function refuseWeak(password: string, about: readonly string[]): void {
  const weakness = passwordWeakness(password, about);
  if (weakness) throw new Refusal(422, 'password', weakness);
}

export const NewPassword = z.object({
  current: z.string().max(1000),
  password: z.string().max(1000),
});

/** Changes one's own password. Wherever else somebody is signed in, they are signed out: it may have leaked. */
export async function changePassword(
  use: Use,
  input: z.infer<typeof NewPassword>,
  from: From,
): Promise<{ ended: number }> {
  const { actor, runtime } = use;
  demandOneself(use);
  if (!(await provePassword(runtime, { email: actor.email, password: input.current, from })))
    throw new Refusal(422, 'current', 'This is not your password of now. Type it again.');
  if (input.password === input.current)
    throw new Refusal(422, 'password', 'This is the password you have. Choose another one.');
  refuseWeak(input.password, [actor.name, actor.email, actor.businessName]);
  const passwordHash = await hashPassword(input.password);
  return use.write(async (tx) => {
    await tx.em.nativeUpdate(Person, { id: actor.personId }, { passwordHash });
    tx.note('password.change', actor.personId);
    return endOtherSessions(tx);
  });
}

/**
 * Somebody has forgotten their password. Whether anybody has this address is not told, and takes no longer or shorter. A link goes to it; one asked for
 * before is no longer good.
 */
export async function askForReset(runtime: Runtime, input: { email: string; from: From }): Promise<void> {
  const email = input.email.trim().toLowerCase();
  if ((await countGuess(runtime, `reset network:${networkOf(input.from.address)}`)) > MOST.network)
    throw tooMany('requests from here');
  // Past so many, whoever has the address is left in peace; whoever asks is told the same.
  const asks = (await countGuess(runtime, `reset:${email}`)) <= MOST.address;
  const id = uuidv7();
  const now = new Date(runtime.now());
  await runtime.pool.query(
    `with asked as (
       insert into password_reset (id, person_id, asked_at, expires_at) select $1, id, $3, $4 from person where email = $2 and $5
       on conflict (person_id) do update set id = excluded.id, asked_at = excluded.asked_at, expires_at = excluded.expires_at returning id)
     select graphile_worker.add_job('account_mail', json_build_object('reset', id), job_key := 'reset ' || id, max_attempts := 8) from asked`,
    [id, email, now, new Date(now.getTime() + RESET_MINUTES * 60_000), asks],
  );
}

const gone = () =>
  new Refusal(
    404,
    'link',
    'This link is no longer good: it was used, is older than half an hour, or a newer one was asked for. Ask for another.',
  );

/** The person a link for a new password is for, while it is good. */
async function personOf(runtime: Runtime, token: string): Promise<{ id: string; person: string; about: string[] }> {
  const id = idInToken(token);
  if (id === null || !isOurs(runtime.secrets, 'password', token, { id })) throw gone();
  const { rows } = await runtime.pool.query<{ person_id: string; name: string; email: string }>(
    `select r.person_id, p.name, p.email from password_reset r join person p on p.id = r.person_id where r.id = $1 and r.expires_at > $2`,
    [id, new Date(runtime.now())],
  );
  if (!rows[0]) throw gone();
  return { id, person: rows[0].person_id, about: [rows[0].name, rows[0].email] };
}

/** Whether a link for a new password is good; refused with the reason where it is not. */
export const lookAtReset = async (runtime: Runtime, token: string): Promise<void> => {
  await personOf(runtime, token);
};

/** Sets a new password by the link of an email, once. Every sign-in of theirs is ended. */
export async function resetPassword(runtime: Runtime, token: string, password: string, from: From): Promise<void> {
  const { id, person, about } = await personOf(runtime, token);
  refuseWeak(password, about);
  const passwordHash = await hashPassword(password);
  await runtime.orm.em.fork().transactional(async (em) => {
    // Of two at once, one finds it used.
    const { affectedRows } = await em.execute<{ affectedRows: number }>(
      'delete from password_reset where id = ? and expires_at > ?',
      [id, new Date(runtime.now())],
      'run',
    );
    if (affectedRows === 0) throw gone();
    await em.nativeUpdate(Person, { id: person }, { passwordHash });
    await em.execute('delete from session where person_id = ?', [person]);
  });
  await noteSignIn(runtime, person, 'password.reset', networkOf(from.address));
}
