import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { storableText } from '../../core/fields/field.ts';
import { commandOf } from '../../core/message/command-words.ts';
import { FrontDoor } from '../../core/message/front-door.ts';
import type { FormReport, ReceivedReport } from '../../core/message/inbound-report.ts';
import { soundsLikeRefusal } from '../../core/message/sounds-like-refusal.ts';
import { readPhone } from '../../core/people/phone.ts';
import type { RawArrival } from '../../core/source/source-kind.ts';
import type { Db } from '../../db/db.ts';
import type { ConnectionSettings } from '../../db/entities/connection.ts';
import { lockLead } from '../../db/hot/lock-lead.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import { ChatMessageSettings, type ChatSaid, listensTo } from '../../sources/chat-message/listening.ts';
import type { Intake } from '../intake/intake.ts';
import { endRuns, tellOf } from '../runs/tell-of.ts';
import type { KnownSource, SettingsCache } from '../settings-cache.ts';
import { openQuestion, takeAnswer } from './answer-question.ts';
import { leadOfNumber } from './chat-person.ts';
import { noteMessage } from './conversation.ts';
import { doubt } from './doubt.ts';
import { type AtTheDoor, greet, isThrough, sendTheForm } from './front-door.ts';
import { leadsOfNumber } from './leads-of-number.ts';
import { takeCommand } from './take-command.ts';
import { readForm, tellOfRefusal } from './take-form.ts';

export interface ReportingConnection {
  id: string;
  business_id: string;
  country: string;
  settings: ConnectionSettings;
}

/** One thing somebody has sent us, as it is kept. */
interface InboundRow {
  remoteId: string;
  channel: 'text' | 'chat';
  kind: ChatSaid['kind'];
  sender: string;
  leadId: string | null;
  text: string;
  questionId: string | null;
  raw: string;
  problem: string | null;
  at: string;
}

/**
 * Takes in what people write by text and in chat, and what they fill in there: kept, steering what is under way, and, where a source
 * listens to it, beginning something new.
 */
export class Inbound {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      settingsCache: SettingsCache;
      intake: Intake;
      outbox: { poke(): void };
      /** Signs the tokens of forms. */
      formKey: Uint8Array;
      now: () => number;
    },
  ) {}

  async takeMessage(
    connection: ReportingConnection,
    channel: 'text' | 'chat',
    message: ReceivedReport,
    raw: Uint8Array,
  ): Promise<void> {
    const { pool, outbox, now } = this.parts;
    const sender = senderOf(message.from, connection.country);
    const words = storableText(message.text);
    const command = commandOf(message.text);
    const stops = command?.command === 'stop';
    const listening = channel === 'chat' && !command ? await this.listeners(connection) : [];
    const door = channel === 'chat' && !command ? doorOf(connection) : null;
    // All of it or none: what they wrote is kept, a wish to stop is recorded, and the runs that wait for a reply go on.
    const { served, first } = await inTransaction(pool, async (client) => {
      const leadId =
        listening.length > 0 || door
          ? await leadOfNumber(client, connection.business_id, sender, storableText(message.name), message.at)
          : await this.leadOf(client, connection, sender);
      if (leadId) await lockLead(client, leadId);
      const asked = leadId && !command ? await openQuestion(client, leadId, channel, message.at) : null;
      const inboundId = await this.put(client, connection, {
        ...{ remoteId: message.id, channel, sender, leadId, text: words, questionId: asked?.id ?? null },
        ...{ kind: message.button ? ('button' as const) : ('message' as const) },
        ...{ raw: Buffer.from(raw).toString('utf8'), problem: null, at: message.at },
      });
      const through = !door || !leadId || asked !== null || (await isThrough(client, door.form, leadId));
      const said = {
        served: through && !(await takenOver(client, leadId)),
        first: listening.length > 0 && (await isFirst(client, connection, sender, message.id, message.at)),
      };
      // Told once more: it was all done then.
      if (!inboundId || !leadId) return said;
      if (command)
        await takeCommand(client, command, {
          businessId: connection.business_id,
          connectionId: connection.id,
          leadId,
          channel,
          sender,
          remoteId: message.id,
          inboundId,
          words,
          at: message.at,
        });
      else if (soundsLikeRefusal(words))
        await doubt(client, { businessId: connection.business_id, leadId, channel, text: words });
      // Who asks for help or comes back has not replied to anything.
      if (command && !stops) return said;
      await endRuns(client, leadId, stops ? ['reply', 'stop'] : ['reply'], asked?.run_id ?? null);
      if (asked) await takeAnswer(client, asked, words, connection.country, now(), inboundId);
      await tellOf(client, leadId, { event: 'reply', text: words });
      if (!through && door) await sendTheForm(client, await this.atTheDoor(connection, door, leadId, message.id));
      return said;
    });
    // A question asked again, or the form, stands in the outbox now.
    outbox.poke();
    if (served)
      await this.begin(listening, raw, {
        kind: message.button ? 'button' : 'message',
        text: message.text,
        first,
        formId: null,
      });
  }

  async takeForm(connection: ReportingConnection, report: FormReport, raw: Uint8Array): Promise<void> {
    const { pool, outbox, formKey, now } = this.parts;
    const sender = senderOf(report.from, connection.country);
    const taken = {
      ...{ connectionId: connection.id, businessId: connection.business_id, country: connection.country },
      ...{ sender, report, formKey, now: now() },
    };
    const door = doorOf(connection);
    const formId = await inTransaction(pool, async (client) => {
      // One at a time: the same form sent twice at once is answered once.
      await client.query('select pg_advisory_xact_lock(hashtextextended($1, 23))', [report.token]);
      // The sender's lead, or the one the form was sent to: the token decides, below.
      const known = await this.leadOf(client, connection, sender);
      if (known) await lockLead(client, known);
      const before = await client.query<{ problem: string | null; form_id: string | null }>(
        `select i.problem, v.form_id from inbound i left join form_answer a on a.inbound_id = i.id left join chat_form_version v on v.id = a.version_id
         where i.connection_id = $1 and i.remote_id = $2`,
        [connection.id, report.id],
      );
      // Told once more: whoever listens to it is told again too, and knows it.
      if (before.rows[0]) return before.rows[0].form_id;
      const read = await readForm(client, taken);
      const row = {
        ...{ remoteId: report.id, channel: 'chat' as const, kind: 'form' as const, sender, questionId: null },
        ...{ raw: Buffer.from(raw).toString('utf8'), at: report.at },
      };
      if (!read.ok) {
        const leadId = read.leadId ?? known;
        await this.put(client, connection, {
          ...row,
          leadId,
          text: 'A form that was not taken',
          problem: read.problem,
        });
        if (read.tell !== '' && leadId)
          await tellOfRefusal(client, taken, leadId, connection.settings.sender ?? '', read.tell);
        else if (read.code !== 'trial') await this.tellForged(client, connection, leadId, sender, read.problem);
        return null;
      }
      const throughBefore = door?.form === read.formId && (await isThrough(client, read.formId, read.leadId));
      const inboundId = await this.put(client, connection, {
        ...{ ...row, leadId: read.leadId, text: read.text, problem: null },
      });
      await read.keep(client, inboundId!);
      if (door?.form === read.formId && !throughBefore)
        await greet(client, await this.atTheDoor(connection, door, read.leadId, report.id));
      return read.formId;
    });
    outbox.poke();
    if (formId === null) return;
    await this.begin(await this.listeners(connection), raw, { kind: 'form', text: '', first: false, formId });
  }

  private async leadOf(client: Db, { business_id }: ReportingConnection, sender: string) {
    // Of several who gave this number, the one we wrote to last: a reply is to a message.
    const leads = await leadsOfNumber(client, business_id, sender);
    if (leads.length < 2) return leads[0] ?? null;
    const { rows } = await client.query<{ lead_id: string }>(
      `select lead_id from delivery where lead_id = any($1::uuid[]) and recipient = $2 and state not in ('refused', 'draft', 'dropped') order by created_at desc limit 1`,
      [leads, sender],
    );
    return rows[0]?.lead_id ?? leads[0]!;
  }

  /** Keeps what came in; its id, or null when it was here before. */
  private async put(client: Db, connection: ReportingConnection, row: InboundRow): Promise<string | null> {
    const id = uuidv7();
    const { rowCount } = await client.query(
      `insert into inbound (id, business_id, connection_id, remote_id, channel, kind, sender, lead_id, text, question_id, raw, problem, received_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) on conflict (connection_id, remote_id) do nothing`,
      [
        ...[id, connection.business_id, connection.id, row.remoteId, row.channel, row.kind, row.sender, row.leadId],
        ...[row.text, row.questionId, storableText(row.raw), row.problem, row.at],
      ],
    );
    if (!rowCount) return null;
    await noteMessage(client, {
      businessId: connection.business_id,
      leadId: row.leadId,
      sender: row.sender,
      channel: row.channel,
      text: row.text,
      fromThem: true,
      at: new Date(row.at),
    });
    return id;
  }

  /** Sources of this business that listen to this network. */
  private async listeners(connection: ReportingConnection): Promise<KnownSource[]> {
    const sources = await this.parts.settingsCache.chatSources(connection.business_id);
    return sources.filter(({ settings }) => settings.connectionId === connection.id);
  }

  private async atTheDoor(
    connection: ReportingConnection,
    door: FrontDoor,
    leadId: string,
    remoteId: string,
  ): Promise<AtTheDoor> {
    const { settingsCache, formKey, now } = this.parts;
    const { catalogue } = await settingsCache.provisionsOf(connection.business_id);
    const business = await settingsCache.businessOf(connection.business_id);
    return { business, catalogue, connectionId: connection.id, door, leadId, remoteId, now: now(), formKey };
  }

  /** Hands it to every source that listens to it; told twice, a source takes it once. */
  private async begin(sources: KnownSource[], body: Uint8Array, said: ChatSaid): Promise<void> {
    const raw: RawArrival = { headers: {}, contentType: 'application/json', body };
    for (const source of sources) {
      const settings = ChatMessageSettings.safeParse(source.settings);
      if (!settings.success || !listensTo(settings.data, said)) continue;
      const { status } = await this.parts.intake.take(source, raw);
      // Kept already, but not begun: told that it is not stored, the network sends it once more.
      if (status === 429) throw new Error(`source ${source.id} takes no more this minute`);
    }
  }

  /** A form with a token we never made: one entry for a person to look at, however often it is tried. */
  private async tellForged(
    client: Db,
    connection: ReportingConnection,
    leadId: string | null,
    sender: string,
    problem: string,
  ): Promise<void> {
    await client.query(
      `insert into needs_you (id, business_id, kind, subject, title, detail, lead_id, created_at)
       values ($1, $2, 'form_refused', $3, 'A chat form with a wrong token', $4, $5, now())
       on conflict (business_id, subject) do update set detail = excluded.detail, created_at = excluded.created_at, settled_at = null, settled_by_id = null`,
      [uuidv7(), connection.business_id, `form:${connection.id}:${sender}`, `From ${sender}. ${problem}`, leadId],
    );
  }
}

const senderOf = (from: string, country: string): string => {
  const phone = readPhone(from, country);
  return phone.ok ? phone.e164 : from;
};

const doorOf = ({ settings }: ReportingConnection): FrontDoor | null => {
  const door = FrontDoor.safeParse(settings.frontDoor ?? {});
  return door.success && door.data.on && door.data.form !== '' ? door.data : null;
};

/** Whether nothing came from this number on this network before. Of two in the same millisecond, one is the first. */
async function isFirst(
  client: Db,
  connection: ReportingConnection,
  sender: string,
  remoteId: string,
  at: string,
): Promise<boolean> {
  const { rowCount } = await client.query(
    `select from inbound i where i.business_id = $1 and i.sender = $2 and i.channel = 'chat' and i.connection_id = $3 and i.remote_id <> $4
       and (i.received_at, i.remote_id) < ($5::timestamptz, $4) limit 1`,
    [connection.business_id, sender, connection.id, remoteId, at],
  );
  return rowCount === 0;
}

/** Whether a colleague is talking to them right now. */
async function takenOver(client: Db, leadId: string | null): Promise<boolean> {
  if (!leadId) return false;
  const { rowCount } = await client.query(
    'select from conversation where lead_id = $1 and taken_by_id is not null limit 1',
    [leadId],
  );
  return rowCount === 1;
}
