import { createHash } from 'node:crypto';
import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { storableText } from '../../core/fields/field.ts';
import { automaticMail } from '../../core/mail/automatic-mail.ts';
import { headersByName } from '../../core/mail/header-lines.ts';
import { commandOf } from '../../core/message/command-words.ts';
import { soundsLikeRefusal } from '../../core/message/sounds-like-refusal.ts';
import { lockLead } from '../../db/hot/lock-lead.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { StrangerReader } from '../../reading/stranger-reader.ts';
import type { Bell } from '../bell.ts';
import { leaveEmails } from '../lists/leave.ts';
import { endRuns, tellOf } from '../runs/tell-of.ts';
import { noteMessage } from './conversation.ts';
import { doubt } from './doubt.ts';

const LOCAL = /^reply-([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})$/;
/** Bytes of a mail that are kept as it came. */
const MOST_RAW = 100_000;
const AUTOMATIC = 'Answered by a machine: it counts as no reply.';

/** Where answers to an email of ours come: the delivery's own address. */
export const replyAddress = (deliveryId: string, domain: string): string => `reply-${deliveryId}@${domain}`;

/** Which delivery a mail answers, by the local part it came to; null when it is no such address. */
export const repliedDelivery = (localPart: string): string | null => LOCAL.exec(localPart)?.[1] ?? null;

/** Takes in what people answer to emails: kept in their conversation, and told to whatever waits for a reply. */
export class EmailReplies {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      bell: Bell;
      reader: StrangerReader;
      /** Runs may be due that waited for what was written. */
      wake: () => void;
      now: () => number;
    },
  ) {}

  /** `envelopeFrom` is the SMTP reverse-path, empty for the null one. */
  async take(deliveryId: string, body: Buffer, envelopeFrom: string): Promise<void> {
    const { pool, bell, now } = this.parts;
    const { rows } = await pool.query<{ business_id: string; lead_id: string | null; connection_id: string }>(
      `select business_id, lead_id, connection_id from delivery where id = $1 and audience = 'lead'`,
      [deliveryId],
    );
    const delivery = rows[0];
    if (!delivery?.lead_id) return;
    const leadId = delivery.lead_id;
    const mail = await this.parts.reader.mail(body, false);
    const headers = headersByName(mail.headerLines);
    const sender = storableText(mail.from || envelopeFrom);
    const subject = storableText(mail.subject);
    const machine = automaticMail({ headers, envelopeFrom, fromAddress: sender, subject }) !== null;
    const text = storableText(mail.reply) || subject || 'An empty mail';
    // A mail that comes again is the same mail; one without an id is known by what it is.
    const remoteId = (mail.messageId ?? createHash('sha256').update(body).digest('hex')).slice(0, 300);
    const at = new Date(now());
    await inTransaction(pool, async (client) => {
      await lockLead(client, leadId);
      const { rowCount } = await client.query(
        `insert into inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, raw, problem, received_at)
         values ($1, $2, $3, $4, 'email', $5, $6, $7, $8, $9, $10) on conflict (connection_id, remote_id) do nothing`,
        [
          ...[uuidv7(), delivery.business_id, delivery.connection_id, storableText(remoteId), sender, leadId, text],
          ...[storableText(body.subarray(0, MOST_RAW).toString('utf8')), machine ? AUTOMATIC : null, at],
        ],
      );
      if (!rowCount || machine) return;
      await noteMessage(client, {
        businessId: delivery.business_id,
        leadId,
        sender,
        channel: 'email',
        text,
        fromThem: true,
        at,
      });
      const command = commandOf(text)?.command;
      if (command === 'stop') await leaveEmails(client, leadId, 'Wrote back by email', at);
      else if (!command && soundsLikeRefusal(text))
        await doubt(client, { businessId: delivery.business_id, leadId, channel: 'email', text });
      await endRuns(client, leadId, command === 'stop' ? ['reply', 'stop'] : ['reply'], null);
      await tellOf(client, leadId, { event: 'reply', text });
    });
    bell.ring(delivery.business_id);
    this.parts.wake();
  }
}
