import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { HeardEvent } from '../../core/described/events.ts';
import { hear, type Sent } from '../../core/described/heard.ts';
import { type DescribedKind, tellsTheConnection } from '../../core/described/works.ts';
import { storableText } from '../../core/fields/field.ts';
import { FormReport, ReceivedReport } from '../../core/message/inbound-report.ts';
import { readAs } from '../../core/read-as.ts';
import { ToldInstant } from '../../core/time/told-instant.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';
import { describedAccount } from '../../db/described-account.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import { log } from '../../log.ts';
import type { ServiceItem } from '../../sources/service/definition.ts';
import { jsonRaw } from '../../sources/source-module.ts';
import type { Bell } from '../bell.ts';
import type { Intake } from '../intake/intake.ts';
import type { SettingsCache } from '../settings-cache.ts';
import type { Inbound, ReportingConnection } from './take-inbound.ts';

/** By our own key, or by the name the service gave the message. */
const Delivered = z.object({ reference: z.uuid(), at: ToldInstant });
const Undelivered = Delivered.extend({
  code: z.string().max(100).default(''),
  detail: z.string().max(500).default(''),
});

const Reviewed = z.object({
  template: z.string().max(200),
  state: z.enum(['approved', 'refused', 'withdrawn']),
  reason: z.string().max(1000).default(''),
  at: ToldInstant,
});

/** What a carrier or a chat network reports, once its description has been gone by. */
const Report = z.discriminatedUnion('means', [
  z.object({ means: z.literal('delivered'), data: Delivered }),
  z.object({ means: z.literal('undelivered'), data: Undelivered }),
  z.object({ means: z.literal('read'), data: Delivered }),
  z.object({ means: z.literal('received'), data: ReceivedReport }),
  z.object({ means: z.literal('form'), data: FormReport }),
  z.object({ means: z.literal('template'), data: Reviewed }),
]);
export type Report = z.infer<typeof Report>;

export interface ReportReply {
  status: number;
  problem?: string;
  /** What the service wants to hear, as plain text. */
  said?: string;
}

const NOT_UNDERSTOOD = 'This report is not understood; docs/gateways.md says what is expected.';

/** Takes in what carriers report: a message reached the phone, did not, or somebody wrote back. */
export class Reports {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      secrets: SecretBox;
      bell: Bell;
      inbound: Inbound;
      intake: Intake;
      settingsCache: SettingsCache;
      /** Runs may be due that waited for what was written. */
      wake: () => void;
      now: () => number;
    },
  ) {}

  async receive(reportKey: string, sent: Sent): Promise<ReportReply> {
    try {
      const { rows } = await this.parts.pool.query<
        ReportingConnection & { report_secret: string; kind: DescribedKind; name: string; secret: string | null }
      >(
        `select c.id, c.business_id, c.kind, c.name, c.report_secret, c.settings, c.secret, b.country from connection c
         join business b on b.id = c.business_id where c.report_key = $1`,
        [reportKey],
      );
      const connection = rows[0];
      const service = connection && tellsTheConnection(connection.kind) ? this.serviceOf(connection) : null;
      if (!connection || !service?.description.hears)
        return { status: 404, problem: 'No connection reports at this address.' };
      const { hears } = service.description;
      const now = this.parts.now();
      const heard = hear(
        hears,
        sent,
        { secret: this.parts.secrets.open(connection.report_secret), values: service.values },
        now,
      );
      if (heard.is === 'handshake') return { status: 200, said: heard.text };
      if (heard.is === 'refused') return { status: heard.status, problem: heard.problem };
      // All of them are understood before any is taken: what was refused comes again whole.
      const reports: Report[] = [];
      for (const event of heard.events) {
        if (event.means === null || event.means === 'nothing' || event.means === 'event') continue;
        const report = await this.reportOf(connection, event, now);
        if (report === 'strange') return { status: 400, problem: NOT_UNDERSTOOD };
        if (report) reports.push(report);
      }
      const told = await this.tellSources(connection, heard.events);
      if (!told) return { status: 503, problem: 'More came at once than is taken. Send it again in a minute.' };
      const channel = connection.kind === 'chat_network' ? 'chat' : 'text';
      for (const report of reports) await this.take(connection, channel, report, sent.body);
      this.parts.bell.ring(connection.business_id);
      return { status: hears.reply.status, said: hears.reply.body };
    } catch (error) {
      log.error({ scope: 'reports', err: error }, 'a report was not taken');
      return { status: 503, problem: 'It could not be stored just now. Send it again.' };
    }
  }

  /** Hands events to the sources that listen; told twice, a source takes each once. False when not all of it could be taken. */
  private async tellSources(connection: ReportingConnection, all: readonly HeardEvent[]): Promise<boolean> {
    const events = all.filter(({ means }) => means === 'event');
    if (events.length === 0) return true;
    const sources = await this.parts.settingsCache.toldSources(connection.business_id, connection.id);
    for (const source of sources)
      for (const { id, kind, values, raw } of events) {
        const item: ServiceItem = { id, kind, values, item: raw };
        const { status } = await this.parts.intake.take(source, jsonRaw(item));
        if (status === 429 || status === 503) return false;
      }
    return true;
  }

  private serviceOf({
    id,
    kind,
    name,
    settings,
    secret,
  }: ReportingConnection & { kind: DescribedKind; name: string; secret: string | null }) {
    return describedAccount({
      id,
      kind,
      name,
      settings,
      secret: secret === null ? null : this.parts.secrets.open(secret),
    });
  }

  /** An event as what we know; null for one about a message we never sent. */
  private async reportOf(
    connection: ReportingConnection,
    event: HeardEvent,
    now: number,
  ): Promise<Report | 'strange' | null> {
    const { means, values } = event;
    const said = Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null && value !== ''));
    const data: Record<string, unknown> = { at: new Date(now).toISOString(), ...said };
    if (Object.hasOwn(values, 'at') && values.at === '') return 'strange';
    if (means === 'received' || means === 'form') {
      data.id = said.id ?? (event.id || `${String(said.from)} ${String(data.at)}`);
      data.text ??= '';
      data.to ??= connection.settings.sender ?? '';
      // Numbers come as services write them: with blanks, without the plus.
      if (typeof data.from === 'string' && /^\d{8,15}$/.test(data.from)) data.from = `+${data.from}`;
      data.button = said.button === 'true' || said.button === true;
    }
    if (
      said.reference === undefined &&
      typeof said.id === 'string' &&
      ['delivered', 'undelivered', 'read'].includes(means ?? '')
    ) {
      const { rows } = await this.parts.pool.query<{ delivery_id: string }>(
        'select delivery_id from taken_message where connection_id = $1 and remote_id = $2',
        [connection.id, said.id],
      );
      if (!rows[0]) return null;
      data.reference = rows[0].delivery_id;
    }
    const report = readAs(Report, { means, data });
    return report.success ? report.data : 'strange';
  }

  /** Takes what is known of one message, or what somebody wrote, whichever way it came. */
  async take(
    connection: ReportingConnection,
    channel: 'text' | 'chat',
    report: Report,
    raw: Uint8Array,
  ): Promise<void> {
    switch (report.means) {
      case 'received':
        await this.parts.inbound.takeMessage(connection, channel, report.data, raw);
        return this.parts.wake();
      case 'form':
        await this.parts.inbound.takeForm(connection, report.data, raw);
        return this.parts.wake();
      case 'template':
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
      case 'read':
        await this.parts.pool.query(
          'update delivery set read_at = coalesce(read_at, $3) where id = $1 and business_id = $2',
          [report.data.reference, connection.business_id, report.data.at],
        );
        return;
      case 'delivered':
        await this.noteDelivery(connection, report.data, 'delivered', 'Delivered to the phone');
        return;
      case 'undelivered': {
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
    // Whoever was to say whether it went out need not any more.
    if (rows[0]?.run_id)
      await this.parts.pool.query(
        `with known as (update needs_you set settled_at = now() where business_id = $1 and kind = 'message_unsure' and settled_at is null
           and subject in ($2, $3) returning run_id)
         update run r set state = 'done' where r.id in (select run_id from known) and r.state = 'needs_you'
           and not exists (select from needs_you n where n.run_id = r.id and n.settled_at is null and n.kind <> 'message_unsure')`,
        [connection.business_id, `run:${rows[0].run_id}:step:${rows[0].step_id}`, `delivery:${rows[0].id}`],
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
