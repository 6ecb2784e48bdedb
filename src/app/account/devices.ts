import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { NOTICE_KINDS, type NoticeKind } from '../../core/notices/notices.ts';
import { namesOf } from '../../core/words/names-of.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { practiceUrlOf } from './practice-world.ts';

export interface DeviceView {
  id: string;
  name: string;
  wants: NoticeKind[];
  createdAt: string;
  /** The last notice that was taken. */
  toldAt: string | null;
  /** Why the last one was not; null while all is well. */
  problem: string | null;
  endpoint: string;
  practice: boolean;
}

export interface DevicesView {
  /** Our key, which a browser asks for before it gives an address (VAPID, base64url). */
  publicKey: string;
  /** A device stands ready on the practice desk. */
  practice: boolean;
  devices: DeviceView[];
}

const Wants = z.array(z.enum(namesOf(NOTICE_KINDS))).max(3);
const Key = (bytes: number) =>
  z.string().refine((text) => Buffer.from(text, 'base64url').length === bytes, 'This browser gave a key that is none');

/** As a browser gives it (PushSubscription.toJSON, W3C Push API). */
export const NewDevice = z.object({
  endpoint: z.url({ protocol: /^https?$/, error: 'This browser gave an address that is none' }).max(2000),
  keys: z.object({ p256dh: Key(65), auth: Key(16) }),
  name: z.string().trim().min(1).max(100),
});
export const ChangeDevice = z.object({ wants: Wants });

/** Most devices one person has: more are forgotten ones. */
const MOST = 20;

/** The devices of whoever asks: nobody sees those of others. */
export async function listDevices(use: Use): Promise<DevicesView> {
  const { rows } = await use.db.query<{
    id: string;
    name: string;
    wants: NoticeKind[];
    created_at: Date;
    told_at: Date | null;
    problem: string | null;
    endpoint: string;
    practice: boolean;
  }>(
    `select id, name, wants, created_at, told_at, problem, endpoint, practice from push_device where business_id = $1 and person_id = $2 order by created_at`,
    [use.actor.businessId, use.actor.personId],
  );
  return {
    publicKey: use.runtime.push.publicKey,
    practice: practiceUrlOf(use) !== null,
    devices: rows.map(({ created_at, told_at, ...row }) => ({
      ...row,
      createdAt: created_at.toISOString(),
      toldAt: told_at?.toISOString() ?? null,
    })),
  };
}

/** Tells this device from now on. The same once more changes its keys, and nothing else. */
export async function addDevice(tx: Write, input: z.infer<typeof NewDevice>): Promise<{ id: string }> {
  demand(tx.actor, 'own');
  const practice = practiceUrlOf(tx);
  const atDesk = practice !== null && new URL(input.endpoint).origin === new URL(practice).origin;
  if (!atDesk && !input.endpoint.startsWith('https:'))
    throw new Refusal(422, 'endpoint', 'A push service is reached by https only. Use a current browser.');
  const { rows } = await tx.db.query<{ id: string }>(
    `insert into push_device (id, business_id, person_id, endpoint, p256dh, auth, name, practice, wants, created_at, told_until)
     select $1, $2, $3, $4, $5, $6, $7, $8, $9, now(), now() where (select count(*) from push_device where person_id = $3) < ${MOST} or exists (select from push_device where business_id = $2 and person_id = $3 and endpoint = $4)
     on conflict on constraint push_device_endpoint do update set p256dh = excluded.p256dh, auth = excluded.auth, failures = 0, problem = null, not_before = null returning id`,
    [
      uuidv7(),
      tx.actor.businessId,
      tx.actor.personId,
      input.endpoint,
      input.keys.p256dh,
      input.keys.auth,
      input.name,
      atDesk,
      Object.keys(NOTICE_KINDS),
    ],
  );
  const [row] = rows;
  if (!row)
    throw new Refusal(409, 'too-many', `You have ${MOST} devices already. Take one away that you no longer use.`);
  tx.note('device.add', row.id, { name: input.name });
  return { id: row.id };
}

export async function changeDevice(tx: Write, id: string, { wants }: z.infer<typeof ChangeDevice>): Promise<void> {
  demand(tx.actor, 'own');
  await mine(
    tx,
    id,
    // What came while it was not wanted is not told afterwards.
    'update push_device set wants = $4, told_until = now() where id = $1 and business_id = $2 and person_id = $3',
    [wants],
  );
  tx.note('device.change', id, { wants });
}

export async function removeDevice(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'own');
  await mine(tx, id, 'delete from push_device where id = $1 and business_id = $2 and person_id = $3', []);
  tx.note('device.remove', id);
}

async function mine({ db, actor }: Write, id: string, sql: string, more: unknown[]): Promise<void> {
  const { rowCount } = await db.query(sql, [id, actor.businessId, actor.personId, ...more]);
  if (rowCount === 0) throw notHere('device');
}

/** Sends one to a device at once, to see that it comes. */
export async function tryDevice(use: Use, id: string): Promise<{ said: string }> {
  demand(use.actor, 'own');
  const { rows } = await use.db.query<{ endpoint: string; p256dh: string; auth: string }>(
    'select endpoint, p256dh, auth from push_device where id = $1 and business_id = $2 and person_id = $3',
    [id, use.actor.businessId, use.actor.personId],
  );
  if (!rows[0]) throw notHere('device');
  const answer = await use.runtime.push.send(rows[0], {
    title: 'It works',
    body: `This is how ${use.actor.businessName} tells you of new leads.`,
    url: '/',
    tag: 'needs',
  });
  if (answer.kind === 'taken') return { said: 'Sent. It is on the device in a moment.' };
  if (answer.kind === 'gone')
    throw new Refusal(409, 'gone', 'This device takes no more notices. Take it away, and add it anew on the device.');
  throw new Refusal(502, 'push', `It did not go. ${answer.problem} Try again in a moment.`);
}

/** A device on the practice desk, to see notices without a browser's push service. */
export async function addPracticeDevice(use: Use): Promise<{ id: string }> {
  demand(use.actor, 'own');
  const desk = practiceUrlOf(use);
  if (!desk) throw new Refusal(409, 'no-practice', 'The practice world is not switched on.');
  const outcome = await use.runtime.outside.http.call(
    'POST',
    `${desk}/api/push-devices`,
    { 'content-type': 'application/json' },
    JSON.stringify({ name: use.actor.name }),
  );
  if (!outcome.ok || outcome.reply.status !== 200)
    throw new Refusal(502, 'practice-not-up', 'The practice desk does not answer. Try again in a moment.');
  const given = NewDevice.omit({ name: true }).parse(JSON.parse(outcome.reply.body));
  return use.write((tx) => addDevice(tx, { ...given, name: 'Phone on the practice desk' }));
}
