import { createHash } from 'node:crypto';
import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { storableText } from '../../core/fields/field.ts';
import { automaticMail } from '../../core/mail/automatic-mail.ts';
import { readBounceWording } from '../../core/mail/bounce-wording.ts';
import { isLasting, readDeliveryStatus } from '../../core/mail/delivery-status.ts';
import { headersByName } from '../../core/mail/header-lines.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { StrangerReader } from '../../reading/stranger-reader.ts';
import type { ReadMail } from '../../reading/task.ts';
import type { Bell } from '../bell.ts';
import { writtenOff } from '../lists/leave.ts';

/** Bytes of a mail that are kept as it came. */
const MOST_RAW = 100_000;
const CAME_BACK = 'A mail came back that we could not read';
const AUTOMATIC = 'Answered by a machine: it counts as no reply.';
const PREFIX = 'bounce-';
const LOCAL = /^bounce-([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})$/;

/** Where a mail server reports that it could not deliver: the delivery's own address (the SMTP reverse-path). */
export const bounceAddress = (deliveryId: string, domain: string): string => `${PREFIX}${deliveryId}@${domain}`;

/** Which delivery a bounce is about, by the local part it came to; null when it is no such address. */
export const bouncedDelivery = (localPart: string): string | null => LOCAL.exec(localPart)?.[1] ?? null;

interface BouncedDelivery {
  business_id: string;
  lead_id: string | null;
  run_id: string | null;
  connection_id: string;
  recipient: string;
}

/** Takes in what mail servers report later: a mail that came back (RFC 3464), or that its reader called spam (RFC 5965). */
export class Bounces {
  constructor(private readonly parts: { pool: pg.Pool; bell: Bell; reader: StrangerReader; now: () => number }) {}

  /** Whether there is such a delivery: what is about none of ours is not read at all. */
  async knows(deliveryId: string): Promise<boolean> {
    const { rows } = await this.parts.pool.query('select from delivery where id = $1', [deliveryId]);
    return rows.length > 0;
  }

  /** `envelopeFrom` is the SMTP reverse-path, empty for the null one. */
  async take(deliveryId: string, body: Buffer, envelopeFrom: string): Promise<void> {
    const { rows } = await this.parts.pool.query<BouncedDelivery>(
      'select business_id, lead_id, run_id, connection_id, recipient from delivery where id = $1',
      [deliveryId],
    );
    const delivery = rows[0];
    if (!delivery) return;
    const mail = await this.parts.reader.mail(body, true);
    if (partOf(mail, 'message/feedback-report') !== null) await this.complained(deliveryId, delivery);
    else await this.bounced(deliveryId, delivery, mail, body, envelopeFrom);
    this.parts.bell.ring(delivery.business_id);
  }

  private async bounced(
    id: string,
    delivery: BouncedDelivery,
    mail: ReadMail,
    body: Buffer,
    envelopeFrom: string,
  ): Promise<void> {
    const told = readDeliveryStatus(partOf(mail, 'message/delivery-status') ?? '');
    const words = told.length === 0 ? readBounceWording(`${mail.subject}\n${mail.text}`) : null;
    const all = words ? [{ ...words, recipient: delivery.recipient }] : told;
    const failed = all.filter((recipientStatus) => recipientStatus.action === 'failed');
    const [first] = failed;
    if (!first) {
      // One that only says "delayed" changes nothing; one that cannot be read is for a person.
      if (all.length === 0) await this.unread(id, delivery, mail, body, envelopeFrom);
      return;
    }
    const { lead_id } = delivery;
    const detail = storableText(`Came back: ${[first.status, first.diagnostic].filter(Boolean).join(' ')}`);
    await inTransaction(this.parts.pool, async (client) => {
      const at = new Date(this.parts.now());
      await client.query(`update delivery set state = 'undelivered', reported_at = $2, detail = $3 where id = $1`, [
        id,
        at,
        detail,
      ]);
      if (lead_id && failed.some(isLasting)) await writtenOff(client, lead_id, 'bounced', detail, at);
    });
  }

  /** Kept on the lead as it came, and told; what a machine answers by itself is only kept. */
  private async unread(
    id: string,
    { business_id, lead_id, connection_id }: BouncedDelivery,
    mail: ReadMail,
    body: Buffer,
    envelopeFrom: string,
  ): Promise<void> {
    if (!lead_id) return;
    const sender = storableText(mail.from || envelopeFrom);
    const subject = storableText(mail.subject);
    const { 'return-path': _, ...headers } = headersByName(mail.headerLines);
    // Whatever comes to this address has the null reverse-path, machines' answers and reports alike: only what says so is an answer.
    const answer = automaticMail({ headers, envelopeFrom: null, fromAddress: sender, subject }) === 'auto-reply';
    const problem = answer ? AUTOMATIC : CAME_BACK;
    const text = storableText([subject, mail.text].filter(Boolean).join('\n\n')).slice(0, 5000) || 'An empty mail';
    const remoteId = (mail.messageId ?? createHash('sha256').update(body).digest('hex')).slice(0, 300);
    const at = new Date(this.parts.now());
    await inTransaction(this.parts.pool, async (client) => {
      const { rowCount } = await client.query(
        `insert into inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, raw, problem, received_at)
         values ($1, $2, $3, $4, 'email', $5, $6, $7, $8, $9, $10) on conflict (connection_id, remote_id) do nothing`,
        [
          ...[uuidv7(), business_id, connection_id, storableText(remoteId), sender, lead_id, text],
          ...[storableText(body.subarray(0, MOST_RAW).toString('utf8')), problem, at],
        ],
      );
      if (!rowCount || answer) return;
      await client.query(`update delivery set detail = $2 where id = $1 and state <> 'undelivered'`, [id, CAME_BACK]);
      await client.query(
        `insert into needs_you (id, business_id, kind, subject, title, detail, lead_id, created_at)
         select $1, $2, 'mail_unread', $3, 'A mail came back that we could not read', coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.email)
           || ': “' || $4 || '”. It stands on their page. If their address takes no mail, put it right there.', l.id, $5 from lead l where l.id = $6
         on conflict (business_id, subject) do nothing`,
        [uuidv7(), business_id, `bounce:${id}`, subject.slice(0, 120) || 'without a subject', at, lead_id],
      );
    });
  }

  private async complained(id: string, { lead_id }: BouncedDelivery): Promise<void> {
    await inTransaction(this.parts.pool, async (client) => {
      const at = new Date(this.parts.now());
      await client.query('update delivery set detail = $2 where id = $1', [id, 'Called spam by its reader']);
      if (lead_id) await writtenOff(client, lead_id, 'complained', 'Called our mail spam', at);
    });
  }
}

/** The text of the part of that media type; null when there is none. */
const partOf = (mail: ReadMail, type: string): string | null =>
  mail.reports.find((part) => part.type === type)?.text ?? null;
