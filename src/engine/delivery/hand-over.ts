import type { Answer } from '../../core/delivery/answer.ts';
import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import type { Db } from '../../db/db.ts';
import { type Looked, lookForMessage, type MessageAccount, safeToRepeat } from '../../steps/described-message.ts';
import { type Outside, performSend, type SendingAccount } from '../../steps/performers.ts';

/** How long a service is given before it is asked whether it took a message, milliseconds: what it has just taken may not show yet. */
const SETTLES_MS = 5000;
const NOT_KNOWN =
  'Nobody can tell whether it went out: the service did not say, and knows no key by which a second one would be held back.';

/**
 * Hands one message over. Where the service would send it twice if asked twice, it is written down before that it leaves, and taken back only when it
 * is known not to have been taken: after a crash, a timeout or a second process nobody sends it again without asking, the service itself where it can
 * be asked, else a person.
 */
export async function handOver(
  outside: Outside,
  db: Db,
  account: SendingAccount,
  message: OutgoingMessage,
  id: string,
): Promise<Answer> {
  if (account.kind === 'email' || message.channel === 'email') return performSend(outside, account, message, id);
  const answer =
    account.kind !== 'smpp' && safeToRepeat(account, message)
      ? await performSend(outside, account, message, id)
      : await handOverOnce(outside, db, account, message, id);
  if (answer.kind !== 'accepted') return answer;
  const byTheirNames = account.kind === 'smpp' || reportsByItsId(account);
  const names = byTheirNames ? (answer.remoteIds ?? [answer.remoteId ?? '']).filter(Boolean) : [];
  if (names.length > 0)
    await db.query(
      `insert into taken_message (connection_id, remote_id, business_id, delivery_id, at)
       select distinct on (name) $1::uuid, left(name, 300), $3::uuid, $4::uuid, now() from unnest($2::text[]) name
       on conflict (connection_id, remote_id) do update set delivery_id = excluded.delivery_id, at = excluded.at`,
      [account.kind === 'smpp' ? account.connectionId : account.service.connectionId, names, account.businessId, id],
    );
  return answer;
}

/** Whether it reports by its own names for messages: nothing it tells has ours. */
const reportsByItsId = ({ service }: MessageAccount): boolean =>
  service.description.hears?.kinds.some(({ means, reads }) => means === 'delivered' && !reads.reference) ?? false;

async function handOverOnce(
  outside: Outside,
  db: Db,
  account: Exclude<SendingAccount, { kind: 'email' }>,
  message: Exclude<OutgoingMessage, { channel: 'email' }>,
  id: string,
): Promise<Answer> {
  const { rowCount } = await db.query('update delivery set begun_at = now() where id = $1 and begun_at is null', [id]);
  if (rowCount === 0) {
    const looked: Looked =
      account.kind === 'smpp'
        ? { is: 'cannot be asked' }
        : await lookForMessage(outside.services, account, message, id);
    if (looked.is === 'taken')
      return {
        kind: 'accepted',
        code: 'looked',
        detail: 'It had been taken, the service says',
        remoteId: looked.remoteId,
      };
    if (looked.is === 'unknown')
      return {
        kind: 'again',
        code: 'look',
        detail: 'The service cannot say yet whether it was taken',
        afterMs: looked.afterMs ?? SETTLES_MS,
      };
    if (looked.is === 'cannot be asked') return { kind: 'unsure', code: 'unsure', detail: NOT_KNOWN };
  }
  const answer = await performSend(outside, account, message, id);
  if (answer.kind === 'again') await db.query('update delivery set begun_at = null where id = $1', [id]);
  const canAsk = account.kind !== 'smpp' && account.service.description.calls.look !== undefined;
  if (answer.kind !== 'unsure' || !canAsk) return answer;
  return {
    kind: 'again',
    code: answer.code,
    detail: `${answer.detail} It is asked before it is sent again.`,
    afterMs: SETTLES_MS,
  };
}
