import { type ParsedMail, type SimpleParserOptions, simpleParser } from 'mailparser';
import type pg from 'pg';
import { storableText } from '../core/fields/field.ts';
import { isLasting, readDeliveryStatus } from '../core/mail/delivery-status.ts';
import { inTransaction } from '../db/in-transaction.ts';
import type { Bell } from './bell.ts';
import { writtenOff } from './leave.ts';

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
}

/** Takes in what mail servers report later: a mail that came back (RFC 3464), or that its reader called spam (RFC 5965). */
export class Bounces {
  constructor(private readonly parts: { pool: pg.Pool; bell: Bell; now: () => number }) {}

  async take(deliveryId: string, body: Buffer): Promise<void> {
    // The report stays a part of its own, as RFC 3464 has it, and does not become words of the mail.
    const mail = await simpleParser(body, { keepDeliveryStatus: true } as SimpleParserOptions);
    const { rows } = await this.parts.pool.query<BouncedDelivery>(
      'select business_id, lead_id, run_id from delivery where id = $1',
      [deliveryId],
    );
    const delivery = rows[0];
    if (!delivery) return;
    if (partOf(mail, 'message/feedback-report') !== null) await this.complained(deliveryId, delivery);
    else await this.bounced(deliveryId, delivery, partOf(mail, 'message/delivery-status') ?? '');
    this.parts.bell.ring(delivery.business_id);
  }

  private async bounced(id: string, { lead_id }: BouncedDelivery, status: string): Promise<void> {
    const failed = readDeliveryStatus(status).filter((one) => one.action === 'failed');
    const [first] = failed;
    // An answer that only says "delayed", or that cannot be read, changes nothing.
    if (!first) return;
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

  private async complained(id: string, { lead_id }: BouncedDelivery): Promise<void> {
    await inTransaction(this.parts.pool, async (client) => {
      const at = new Date(this.parts.now());
      await client.query('update delivery set detail = $2 where id = $1', [id, 'Called spam by its reader']);
      if (lead_id) await writtenOff(client, lead_id, 'complained', 'Called our mail spam', at);
    });
  }
}

/** The text of the part of that media type; null when there is none. */
const partOf = (mail: ParsedMail, type: string): string | null =>
  mail.attachments.find((part) => part.contentType.toLowerCase() === type)?.content.toString('utf8') ?? null;
