import { createHmac, randomBytes } from 'node:crypto';
import { renderSVG } from 'uqr';
import { z } from 'zod';
import { newTotpSecret, totpAddress, totpStep } from '../../core/signing/totp.ts';
import type { Db } from '../../db/db.ts';
import type { Runtime } from '../../runtime.ts';
import { demandOneself } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { beginErrand, endErrand, lookAtErrand } from './errands.ts';
import { countGuess, networkOf, tooMany, uncountGuesses } from './guesses.ts';
import { demandProof } from './proof.ts';
import type { From } from './session.ts';
import { enter } from './sign-in.ts';

/** Codes for whoever has lost their phone. */
const CODES = 10;
/** Letters nobody takes for another: 32 of them, five bits each. */
const LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
const CODE_LENGTH = 10;
/** Wrong codes of one person from one network, in a quarter of an hour. */
const MOST_WRONG = 8;

const plain = (code: string) => code.toUpperCase().replace(/[^A-Z0-9]/g, '');
const hashOf = (runtime: Runtime, code: string) =>
  createHmac('sha256', runtime.secrets.derive('recovery-codes')).update(plain(code)).digest('base64url');

export interface SecondView {
  /** Codes of a program on a phone are asked for. */
  on: boolean;
  /** Recovery codes that have not been used. */
  codesLeft: number;
  /** This business asks it of everybody. */
  demanded: boolean;
}

export async function getSecond({ db, actor }: Use): Promise<SecondView> {
  const { rows } = await db.query<SecondView>(
    `select p.totp is not null as on, (select count(*)::int from recovery_code c where c.person_id = p.id) as "codesLeft", b.demands_second as demanded
     from person p, business b where p.id = $1 and b.id = $2`,
    [actor.personId, actor.businessId],
  );
  return rows[0]!;
}

/** Begins: a secret to be read by a program on a phone. Nothing is asked for until a code of it has been typed. */
export async function beginSecond(use: Use): Promise<{ token: string; secret: string; picture: string }> {
  demandOneself(use);
  demandProof(use);
  const secret = newTotpSecret();
  const { personId, email } = use.actor;
  const token = await beginErrand(use.runtime, 'second', { setUp: personId, secret: use.runtime.secrets.seal(secret) });
  return { token, secret, picture: renderSVG(totpAddress(secret, email), { border: 2 }) };
}

export const SecondCode = z.object({ token: z.string().max(100), code: z.string().max(40) });

async function newCodes(tx: Write): Promise<string[]> {
  const codes = Array.from({ length: CODES }, () => {
    const letters = Array.from(randomBytes(CODE_LENGTH), (byte) => LETTERS[byte % LETTERS.length]).join('');
    return `${letters.slice(0, 5)}-${letters.slice(5)}`;
  });
  await tx.db.query('delete from recovery_code where person_id = $1', [tx.actor.personId]);
  await tx.db.query('insert into recovery_code (person_id, hash) select $1, unnest($2::text[])', [
    tx.actor.personId,
    codes.map((code) => hashOf(tx.runtime, code)),
  ]);
  return codes;
}

/** From now on codes are asked for; gives the recovery codes, which are shown this once. */
export async function startSecond(tx: Write, input: z.infer<typeof SecondCode>): Promise<{ codes: string[] }> {
  demandOneself(tx);
  demandProof(tx);
  const { runtime, actor } = tx;
  const begun = await lookAtErrand(runtime, 'second', input.token);
  if (!begun || begun.setUp !== actor.personId)
    throw new Refusal(409, 'over', 'This took too long. Begin once more, with a new picture.');
  const step = totpStep(runtime.secrets.open(begun.secret!), input.code, runtime.now(), 0);
  if (step === null)
    throw new Refusal(
      422,
      'code',
      'This is not the code of now. Wait for the next one; if none fits, set the clock of the phone by the network.',
    );
  await endErrand(runtime, 'second', input.token);
  await tx.db.query('update person set totp = $2, totp_step = $3 where id = $1', [actor.personId, begun.secret, step]);
  // This sign-in has proved both; elsewhere somebody may sit who knows the password only.
  await tx.db.query(`delete from session where person_id = $1 and how = 'password' and id <> $2`, [
    actor.personId,
    actor.sessionId,
  ]);
  await tx.db.query(`update session set how = 'second' where id = $1`, [actor.sessionId]);
  tx.note('second.start', actor.personId);
  return { codes: await newCodes(tx) };
}

async function onlyWhereOn(tx: Write): Promise<void> {
  const { rows } = await tx.db.query<{ totp: string | null }>('select totp from person where id = $1 for update', [
    tx.actor.personId,
  ]);
  if (rows[0]?.totp == null) throw new Refusal(409, 'off', 'No codes are asked for.');
}

/** New recovery codes; the older ones are no longer good. */
export async function renewCodes(tx: Write): Promise<{ codes: string[] }> {
  demandOneself(tx);
  demandProof(tx);
  await onlyWhereOn(tx);
  tx.note('second.codes', tx.actor.personId);
  return { codes: await newCodes(tx) };
}

/** No codes any more; refused where a business of theirs asks it of everybody, and they have no key either. */
export async function stopSecond(tx: Write): Promise<void> {
  demandOneself(tx);
  demandProof(tx);
  await onlyWhereOn(tx);
  const { rows } = await tx.db.query<{ name: string }>(
    `select b.name from membership m join business b on b.id = m.business_id where m.person_id = $1 and b.demands_second
       and not exists (select from passkey k where k.person_id = $1) limit 1`,
    [tx.actor.personId],
  );
  if (rows[0])
    throw new Refusal(409, 'demanded', `${rows[0].name} asks everybody for more than a password. Add a passkey first.`);
  await tx.db.query('update person set totp = null, totp_step = 0 where id = $1', [tx.actor.personId]);
  await tx.db.query('delete from recovery_code where person_id = $1', [tx.actor.personId]);
  tx.note('second.stop', tx.actor.personId);
}

/** Whether a code, of the phone or for recovery, is this person's; it is used up by that. */
async function spendCode(runtime: Runtime, db: Db, personId: string, code: string): Promise<boolean> {
  const { rows } = await db.query<{ totp: string | null; step: number }>(
    'select totp, totp_step::float8 as step from person where id = $1',
    [personId],
  );
  const { totp, step: last } = rows[0] ?? { totp: null, step: 0 };
  if (totp === null) return false;
  const step = totpStep(runtime.secrets.open(totp), code, runtime.now(), last);
  const used =
    step === null
      ? await db.query('delete from recovery_code where person_id = $1 and hash = $2', [
          personId,
          hashOf(runtime, code),
        ])
      : // Typed twice at the same moment, one of them finds it used.
        await db.query('update person set totp_step = $2 where id = $1 and totp_step < $2', [personId, step]);
  return used.rowCount === 1;
}

/** The second step of a sign-in: the password was right, and a code is asked for. */
export async function enterByCode(
  runtime: Runtime,
  token: string | undefined,
  code: string,
  from: From,
): Promise<{ cookie: string }> {
  const begun = await lookAtErrand(runtime, 'second', token);
  if (!begun?.person) throw new Refusal(401, 'over', 'This took too long. Sign in once more.');
  const key = `second:${begun.person}:${networkOf(from.address)}`;
  if ((await countGuess(runtime, key)) > MOST_WRONG) throw tooMany('wrong codes');
  if (!(await spendCode(runtime, runtime.pool, begun.person, code)))
    throw new Refusal(401, 'code', 'This is not a code of now, or it was used already. Wait for the next one.');
  await uncountGuesses(runtime, [key]);
  await endErrand(runtime, 'second', token);
  return enter(runtime, begun.person, from, 'second');
}
