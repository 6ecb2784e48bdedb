import {
  type AuthenticationResponseJSON,
  generateAuthenticationOptions,
  generateRegistrationOptions,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  type RegistrationResponseJSON,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
} from '@simplewebauthn/server';
import ipaddr from 'ipaddr.js';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { Passkey } from '../../db/entities/business.ts';
import type { Runtime } from '../../runtime.ts';
import { demandOneself } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { beginErrand, endErrand } from './errands.ts';
import { countGuess, networkOf, tooMany } from './guesses.ts';
import { demandProof } from './proof.ts';
import type { From } from './session.ts';
import { enter } from './sign-in.ts';

/** Keys of one person; tries from one network in a quarter of an hour. */
const MOST_KEYS = 20;
const MOST_TRIES = 60;

/** The name a page is opened by, as keys are bound to it (W3C Web Authentication §5.1.2: a domain, never an address in numbers). */
interface Site {
  id: string;
  origin: string;
}

/**
 * The site keys are for: that of our public address or, opened on this machine itself, localhost.
 *
 * @returns null where keys cannot be: Pine Bell was opened by numbers
 */
export function siteOf(runtime: Pick<Runtime, 'settings'>, host: string | null): Site | null {
  const ours = new URL(runtime.settings.publicUrl);
  const local = host !== null && /^localhost(:\d+)?$/.test(host);
  const site = local ? new URL(`${ours.protocol}//${host}`) : ours;
  const id = site.hostname;
  return ipaddr.isValid(id.replace(/^\[|\]$/g, '')) ? null : { id, origin: site.origin };
}

const nowhere = () =>
  new Refusal(
    409,
    'site',
    'A passkey belongs to a name, and Pine Bell was opened by numbers. On this machine open it as localhost.',
  );

export interface PasskeyView {
  id: string;
  name: string;
  createdAt: string;
  usedAt: string | null;
}

export async function listPasskeys({ em, actor }: Use): Promise<PasskeyView[]> {
  const keys = await em.find(Passkey, { person: actor.personId }, { orderBy: { createdAt: 'asc' } });
  return keys.map(({ id, name, createdAt, usedAt }) => ({
    ...{ id, name, createdAt: createdAt.toISOString(), usedAt: usedAt?.toISOString() ?? null },
  }));
}

/** Begins a new key on the device somebody sits at. */
export async function beginPasskey(
  use: Use,
  host: string | null,
): Promise<{ token: string; options: PublicKeyCredentialCreationOptionsJSON }> {
  demandOneself(use);
  demandProof(use);
  const { runtime, actor } = use;
  const site = siteOf(runtime, host);
  if (!site) throw nowhere();
  const keys = await use.em.find(Passkey, { person: actor.personId });
  if (keys.length >= MOST_KEYS) throw new Refusal(422, 'too-many', 'So many passkeys are enough: take one away first.');
  const options = await generateRegistrationOptions({
    ...{ rpName: 'Pine Bell', rpID: site.id, userName: actor.email, userDisplayName: actor.name },
    userID: new TextEncoder().encode(actor.personId),
    attestationType: 'none',
    // One device holds one.
    excludeCredentials: keys.map(({ credential, transports }) => ({ id: credential, transports })),
    // Found without a name typed, and only with a finger, a face or a code: both factors in one.
    authenticatorSelection: { residentKey: 'required', userVerification: 'required' },
  });
  const token = await beginErrand(runtime, 'key-new', {
    ...{ person: actor.personId, challenge: options.challenge, site: site.id, origin: site.origin },
  });
  return { token, options };
}

export const NewPasskey = z.object({
  token: z.string().max(100),
  name: z.string().trim().min(1, 'Give the passkey a name').max(100),
  /** As the browser's navigator.credentials.create gives it. */
  answer: z.looseObject({ id: z.string().max(2000) }),
});

const over = () => new Refusal(409, 'over', 'This took too long, or was done already. Begin once more.');
const unproved = () => new Refusal(422, 'key', 'The device did not prove that it holds this key. Try once more.');

/** Keeps a new key. */
export async function addPasskey(tx: Write, input: z.infer<typeof NewPasskey>): Promise<{ id: string }> {
  demandOneself(tx);
  demandProof(tx);
  const begun = await endErrand(tx.runtime, 'key-new', input.token);
  if (!begun || begun.person !== tx.actor.personId) throw over();
  const { registrationInfo } = await verifyRegistrationResponse({
    response: input.answer as unknown as RegistrationResponseJSON,
    ...{ expectedChallenge: begun.challenge!, expectedOrigin: begun.origin!, expectedRPID: begun.site! },
    requireUserVerification: true,
  }).catch(() => ({ registrationInfo: undefined }));
  if (!registrationInfo) throw unproved();
  const { credential } = registrationInfo;
  const id = uuidv7();
  tx.em.create(Passkey, {
    ...{ id, person: tx.actor.personId, name: input.name, createdAt: new Date(tx.runtime.now()) },
    ...{ credential: credential.id, publicKey: Buffer.from(credential.publicKey), counter: credential.counter },
    transports: credential.transports ?? [],
  });
  await tx.em.flush();
  // Whoever has just made one has proved more than a password.
  await tx.db.query(`update session set how = 'key' where id = $1`, [tx.actor.sessionId]);
  tx.note('passkey.add', id, { name: input.name });
  return { id };
}

/** Takes a key away: it opens nothing any more. Refused for the last one where more than a password is asked for and there is nothing else. */
export async function removePasskey(tx: Write, id: string): Promise<void> {
  demandOneself(tx);
  demandProof(tx);
  const keys = await tx.em.find(Passkey, { person: tx.actor.personId });
  const key = keys.find((one) => one.id === id);
  if (!key) throw notHere('passkey');
  const { rows } = await tx.db.query<{ name: string }>(
    `select b.name from membership m join business b on b.id = m.business_id join person p on p.id = m.person_id
     where m.person_id = $1 and b.demands_second and p.totp is null limit 1`,
    [tx.actor.personId],
  );
  if (keys.length === 1 && rows[0])
    throw new Refusal(
      409,
      'demanded',
      `${rows[0].name} asks everybody for more than a password. Add codes of your phone first.`,
    );
  tx.em.remove(key);
  await tx.em.flush();
  tx.note('passkey.remove', id, { name: key.name });
}

/** Begins a sign-in by whichever key the device holds. */
export async function beginPasskeySignIn(
  runtime: Runtime,
  host: string | null,
  from: From,
): Promise<{ token: string; options: PublicKeyCredentialRequestOptionsJSON }> {
  const site = siteOf(runtime, host);
  if (!site) throw nowhere();
  if ((await countGuess(runtime, `key:${networkOf(from.address)}`)) > MOST_TRIES) throw tooMany('tries from here');
  const options = await generateAuthenticationOptions({ rpID: site.id, userVerification: 'required' });
  const token = await beginErrand(runtime, 'key-use', {
    ...{ challenge: options.challenge, site: site.id, origin: site.origin },
  });
  return { token, options };
}

/** Signs in whoever holds a key of ours. */
export async function enterByPasskey(
  runtime: Runtime,
  token: string | undefined,
  answer: unknown,
  from: From,
): Promise<{ cookie: string }> {
  const begun = await endErrand(runtime, 'key-use', token);
  if (!begun) throw over();
  const read = z.looseObject({ id: z.string().max(2000) }).safeParse(answer);
  const em = runtime.orm.em.fork();
  const key = read.success ? await em.findOne(Passkey, { credential: read.data.id }) : null;
  if (!key) throw new Refusal(401, 'key', 'This passkey is not known here any more. Sign in by your password.');
  const proved = await verifyAuthenticationResponse({
    response: answer as AuthenticationResponseJSON,
    ...{ expectedChallenge: begun.challenge!, expectedOrigin: begun.origin!, expectedRPID: begun.site! },
    requireUserVerification: true,
    credential: {
      ...{ id: key.credential, counter: Number(key.counter), transports: key.transports },
      publicKey: new Uint8Array(key.publicKey),
    },
  }).catch(() => null);
  if (!proved?.verified) throw unproved();
  key.counter = proved.authenticationInfo.newCounter;
  key.usedAt = new Date(runtime.now());
  await em.flush();
  return enter(runtime, key.person.id, from, 'key');
}
