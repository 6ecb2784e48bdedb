import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { storableText } from '../core/fields/field.ts';
import { isStopWord } from '../core/message/stop-words.ts';
import { readPhone } from '../core/people/phone.ts';
import { SIGNATURE_PROBLEMS, verifyWebhook } from '../core/signing/standard-webhooks.ts';
import type { SecretBox } from '../db/secret-box.ts';
import type { Bell } from './bell.ts';
import { tellWaitingRuns } from './tell-waiting-runs.ts';

/** What a carrier reports, as docs/gateways.md writes it down. */
const Report = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text.delivered'), data: z.object({ reference: z.uuid(), at: z.iso.datetime() }) }),
  z.object({
    type: z.literal('text.undelivered'),
    data: z.object({
      reference: z.uuid(),
      at: z.iso.datetime(),
      code: z.string().max(100),
      detail: z.string().max(500),
    }),
  }),
  z.object({
    type: z.literal('text.received'),
    data: z.object({
      id: z.string().max(200),
      from: z.string().max(60),
      to: z.string().max(60),
      text: z.string().max(5000),
      at: z.iso.datetime(),
    }),
  }),
]);
type Report = z.infer<typeof Report>;

export interface ReportReply {
  status: 200 | 400 | 401 | 404 | 503;
  problem?: string;
}

interface ReportingConnection {
  id: string;
  business_id: string;
  report_secret: string;
  country: string;
}

/** Takes in what carriers report: a text reached the phone, did not, or somebody wrote back. */
export class Reports {
  constructor(private readonly parts: { pool: pg.Pool; secrets: SecretBox; bell: Bell; now: () => number }) {}

  async receive(reportKey: string, headers: Record<string, string>, body: Uint8Array): Promise<ReportReply> {
    try {
      const { rows } = await this.parts.pool.query<ReportingConnection>(
        'select c.id, c.business_id, c.report_secret, b.country from connection c join business b on b.id = c.business_id where c.report_key = $1',
        [reportKey],
      );
      const connection = rows[0];
      if (!connection) return { status: 404, problem: 'No connection reports at this address.' };
      const signed = {
        id: headers['webhook-id'] ?? null,
        timestamp: headers['webhook-timestamp'] ?? null,
        signature: headers['webhook-signature'] ?? null,
      };
      const problem = verifyWebhook(this.parts.secrets.open(connection.report_secret), signed, body, this.parts.now());
      if (problem) return { status: 401, problem: SIGNATURE_PROBLEMS[problem] };
      const report = Report.safeParse(parse(body));
      if (!report.success)
        return { status: 400, problem: 'This report is not understood; docs/gateways.md says what is expected.' };
      await this.take(connection, report.data);
      this.parts.bell.ring(connection.business_id);
      return { status: 200 };
    } catch (error) {
      console.error(`report: ${(error as Error).message}`);
      return { status: 503, problem: 'It could not be stored just now. Send it again.' };
    }
  }

  private async take(connection: ReportingConnection, report: Report): Promise<void> {
    if (report.type === 'text.received') return this.takeText(connection, report.data);
    const { reference, at } = report.data;
    const undelivered = report.type === 'text.undelivered' ? report.data : null;
    // Whatever comes later in time counts: reports may overtake each other.
    const { rows } = await this.parts.pool.query<{
      id: string;
      run_id: string | null;
      step_id: string;
      lead_id: string | null;
    }>(
      `update delivery set state = $3, reported_at = $4, detail = $5
       where id = $1 and business_id = $2 and (reported_at is null or reported_at < $4) returning id, run_id, step_id, lead_id`,
      [
        reference,
        connection.business_id,
        undelivered ? 'undelivered' : 'delivered',
        at,
        undelivered ? storableText(undelivered.detail) : 'Delivered to the phone',
      ],
    );
    const delivery = rows[0];
    if (!delivery?.run_id || !undelivered) return;
    await this.parts.pool.query(
      `with told as (insert into needs_you (id, business_id, kind, subject, title, detail, run_id, step_id, lead_id, created_at)
         select $1, $2, 'message_refused', $3, 'Text not delivered', coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.phone) || '. ' || $4, $5, $6, l.id, now()
         from lead l where l.id = $7 on conflict (business_id, subject) do nothing)
       update run set state = case when state in ('done', 'active') then 'needs_you' else state end, outcome = 'Text not delivered' where id = $5 and due_at is null`,
      [
        uuidv7(),
        connection.business_id,
        `run:${delivery.run_id}:step:${delivery.step_id}`,
        storableText(undelivered.detail),
        delivery.run_id,
        delivery.step_id,
        delivery.lead_id,
      ],
    );
  }

  private async takeText(
    connection: ReportingConnection,
    text: Extract<Report, { type: 'text.received' }>['data'],
  ): Promise<void> {
    const phone = readPhone(text.from, connection.country);
    const sender = phone.ok ? phone.e164 : text.from;
    const words = storableText(text.text);
    // All of it or none: the text is kept, a wish to stop is recorded, and the runs that wait for a reply go on.
    const client = await this.parts.pool.connect();
    try {
      await client.query('begin');
      const who = await client.query<{ lead_id: string }>(
        `select lead_id from lead_identity where business_id = $1 and kind = 'phone' and value = $2`,
        [connection.business_id, sender],
      );
      const leadId = who.rows[0]?.lead_id ?? null;
      if (leadId) await client.query('select pg_advisory_xact_lock(hashtextextended($1, 17))', [leadId]);
      const { rowCount } = await client.query(
        `insert into inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, received_at)
         values ($1, $2, $3, $4, 'text', $5, $6, $7, $8) on conflict (connection_id, remote_id) do nothing`,
        [uuidv7(), connection.business_id, connection.id, text.id, sender, leadId, words, text.at],
      );
      if (rowCount && leadId) {
        const stops = isStopWord(text.text);
        if (stops)
          await client.query(
            `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, 'text', 'withdrawn', $4, 'Wrote back by text', $5)`,
            [uuidv7(), connection.business_id, leadId, words, text.at],
          );
        await tellWaitingRuns(client, leadId, words, stops);
      }
      await client.query('commit');
    } catch (error) {
      await client.query('rollback').catch(() => {});
      throw error;
    } finally {
      client.release();
    }
  }
}

function parse(body: Uint8Array): unknown {
  try {
    return JSON.parse(Buffer.from(body).toString('utf8'));
  } catch {
    return null;
  }
}
