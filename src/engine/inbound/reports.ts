import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { storableText } from '../../core/fields/field.ts';
import { FormReport, ReceivedReport } from '../../core/message/inbound-report.ts';
import { readAs } from '../../core/read-as.ts';
import { SIGNATURE_PROBLEMS, verifyWebhook } from '../../core/signing/standard-webhooks.ts';
import { ToldInstant } from '../../core/time/told-instant.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import { log } from '../../log.ts';
import type { Bell } from '../bell.ts';
import type { Inbound, ReportingConnection } from './take-inbound.ts';

const Delivered = z.object({ reference: z.uuid(), at: ToldInstant });
const Undelivered = Delivered.extend({ code: z.string().max(100), detail: z.string().max(500) });

const Reviewed = z.object({
  template: z.string().max(200),
  state: z.enum(['approved', 'refused', 'withdrawn']),
  reason: z.string().max(1000).default(''),
  at: ToldInstant,
});

/** What a carrier or a chat network reports, as docs/gateways.md writes it down. */
const Report = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text.delivered'), data: Delivered }),
  z.object({ type: z.literal('text.undelivered'), data: Undelivered }),
  z.object({ type: z.literal('text.received'), data: ReceivedReport }),
  z.object({ type: z.literal('chat.delivered'), data: Delivered }),
  z.object({ type: z.literal('chat.read'), data: Delivered }),
  z.object({ type: z.literal('chat.undelivered'), data: Undelivered }),
  z.object({ type: z.literal('chat.received'), data: ReceivedReport }),
  z.object({ type: z.literal('chat.form'), data: FormReport }),
  z.object({ type: z.literal('chat.template'), data: Reviewed }),
]);
type Report = z.infer<typeof Report>;

export interface ReportReply {
  status: 200 | 400 | 401 | 404 | 503;
  problem?: string;
}

/** Takes in what carriers report: a message reached the phone, did not, or somebody wrote back. */
export class Reports {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      secrets: SecretBox;
      bell: Bell;
      inbound: Inbound;
      /** Runs may be due that waited for what was written. */
      wake: () => void;
      now: () => number;
    },
  ) {}

  async receive(reportKey: string, headers: Record<string, string>, body: Uint8Array): Promise<ReportReply> {
    try {
      const { rows } = await this.parts.pool.query<ReportingConnection & { report_secret: string }>(
        `select c.id, c.business_id, c.report_secret, c.settings, b.country from connection c join business b on b.id = c.business_id
         where c.report_key = $1`,
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
      const report = readAs(Report, parse(body));
      if (!report.success)
        return { status: 400, problem: 'This report is not understood; docs/gateways.md says what is expected.' };
      await this.take(connection, report.data, body);
      this.parts.bell.ring(connection.business_id);
      return { status: 200 };
    } catch (error) {
      log.error({ scope: 'reports', err: error }, 'a report was not taken');
      return { status: 503, problem: 'It could not be stored just now. Send it again.' };
    }
  }

  private async take(connection: ReportingConnection, report: Report, raw: Uint8Array): Promise<void> {
    const channel = report.type.startsWith('chat') ? 'chat' : 'text';
    switch (report.type) {
      case 'text.received':
      case 'chat.received':
        await this.parts.inbound.takeMessage(connection, channel, report.data, raw);
        return this.parts.wake();
      case 'chat.form':
        await this.parts.inbound.takeForm(connection, report.data, raw);
        return this.parts.wake();
      case 'chat.template':
        // Whatever comes later in time counts: a review and a withdrawal may overtake each other.
        await this.parts.pool.query(
          `update chat_template_version v set state = $3, reason = $4, decided_at = $5 from chat_template t
           where t.id = v.template_id and v.remote_id = $1 and t.business_id = $2 and (v.decided_at is null or v.decided_at < $5)`,
          [
            report.data.template,
            connection.business_id,
            report.data.state,
            storableText(report.data.reason),
            report.data.at,
          ],
        );
        return;
      case 'chat.read':
        await this.parts.pool.query(
          'update delivery set read_at = coalesce(read_at, $3) where id = $1 and business_id = $2',
          [report.data.reference, connection.business_id, report.data.at],
        );
        return;
      case 'text.delivered':
      case 'chat.delivered':
        await this.noteDelivery(connection, report.data, 'delivered', 'Delivered to the phone');
        return;
      case 'text.undelivered':
      case 'chat.undelivered': {
        const detail = storableText(report.data.detail);
        const delivery = await this.noteDelivery(connection, report.data, 'undelivered', detail);
        if (delivery?.run_id) await this.tellUndelivered(connection, delivery, channel, detail);
      }
    }
  }

  /** Whatever comes later in time counts: reports may overtake each other. */
  private async noteDelivery(
    connection: ReportingConnection,
    { reference, at }: { reference: string; at: string },
    state: 'delivered' | 'undelivered',
    detail: string,
  ) {
    const { rows } = await this.parts.pool.query<{
      id: string;
      run_id: string | null;
      step_id: string;
      lead_id: string | null;
    }>(
      `update delivery set state = $3, reported_at = $4, detail = $5
       where id = $1 and business_id = $2 and (reported_at is null or reported_at < $4) returning id, run_id, step_id, lead_id`,
      [reference, connection.business_id, state, at, detail],
    );
    return rows[0] ?? null;
  }

  private async tellUndelivered(
    connection: ReportingConnection,
    delivery: { run_id: string | null; step_id: string; lead_id: string | null },
    channel: 'text' | 'chat',
    detail: string,
  ): Promise<void> {
    await this.parts.pool.query(
      `with told as (insert into needs_you (id, business_id, kind, subject, title, detail, run_id, step_id, lead_id, created_at)
         select $1, $2, 'message_refused', $3, $8, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.phone) || '. ' || $4, $5, $6, l.id, now()
         from lead l where l.id = $7 on conflict (business_id, subject) do nothing)
       update run set state = case when state in ('done', 'active') then 'needs_you' else state end, outcome = $8 where id = $5 and due_at is null`,
      [
        uuidv7(),
        connection.business_id,
        `run:${delivery.run_id}:step:${delivery.step_id}`,
        detail,
        delivery.run_id,
        delivery.step_id,
        delivery.lead_id,
        `${CHANNEL_WORDS[channel].one} not delivered`,
      ],
    );
  }
}

function parse(body: Uint8Array): unknown {
  try {
    return JSON.parse(Buffer.from(body).toString('utf8'));
  } catch {
    return null;
  }
}
