import type pg from 'pg';
import { storableText } from '../../core/fields/field.ts';
import {
  type HandedOver,
  joined,
  kindOf,
  type Part,
  partOf,
  receiptOf,
  sameIds,
} from '../../core/message/smpp/incoming.ts';
import type { ConnectionSettings } from '../../db/entities/connection.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import type { Heard, SmppSessions } from '../../gateways/smpp/sessions.ts';
import { log } from '../../log.ts';
import type { Bell } from '../bell.ts';
import { PlainLoop } from '../loop.ts';
import { smppAccount } from '../services/smpp-account.ts';
import type { Reports } from './reports.ts';
import type { ReportingConnection } from './take-inbound.ts';

/** How long a receipt waits for the text it is about to be known by its name: it may overtake the answer that names it. Milliseconds. */
const OVERTAKES_MS = 3000;
const LOOK_EVERY_MS = 150;
/** Parts of a text that did not all come within so many minutes are shown as they are. */
const PARTS_MINUTES = 5;
/** Longest text that is taken, in characters: what is longer is cut. */
const LONGEST = 5000;

/** Has sessions with the carriers that are reached by SMPP open, and takes what they bring: receipts, and what people write. */
export class CarrierSessions {
  readonly loop = new PlainLoop('carriers', () => this.look(), null);
  /** Connections whose carrier reports by another notation of the name it answered with. */
  private readonly otherNotation = new Set<string>();

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      secrets: SecretBox;
      smpp: SmppSessions;
      reports: Reports;
      bell: Bell;
      now: () => number;
    },
  ) {
    parts.smpp.listen((connectionId, heard) =>
      this.hear(connectionId, heard).catch((error) => {
        log.warn({ scope: 'carriers', connection: connectionId, err: error }, 'not taken, asked for again');
        throw error;
      }),
    );
  }

  private async look(): Promise<void> {
    const { pool, secrets, smpp } = this.parts;
    const { rows } = await pool.query<{ id: string; settings: ConnectionSettings; secret: string | null }>(
      `select c.id, c.settings, c.secret from connection c join business b on b.id = c.business_id and b.removed_at is null
       where c.kind = 'text_carrier' and c.removed_at is null and c.settings ? 'smpp' order by c.id`,
    );
    const accounts = rows.map(({ id, settings, secret }) =>
      smppAccount(id, settings, secret === null ? null : secrets.open(secret)),
    );
    // Whoever does not answer holds up nobody: this goes on beside the loop.
    void smpp.keep(accounts).catch((error) => log.error({ scope: 'carriers', err: error }, 'sessions not kept'));
    await this.showWhatStayedInParts();
  }

  private async hear(connectionId: string, { id, got }: Heard): Promise<void> {
    const { rows } = await this.parts.pool.query<ReportingConnection>(
      `select c.id, c.business_id, c.settings, b.country from connection c join business b on b.id = c.business_id
       where c.id = $1`,
      [connectionId],
    );
    // Of one that has just been removed it is taken all the same: a STOP is never lost.
    const connection = rows[0];
    if (!connection) return;
    if (kindOf(got) === 'receipt') await this.takeReceipt(connection, got);
    else {
      const part = partOf(got);
      if (part) await this.takePart(connection, got, part);
      else await this.takeText(connection, { id, from: got.from, to: got.to, text: got.text, at: this.now() });
    }
    this.parts.bell.ring(connection.business_id);
  }

  private readonly now = () => new Date(this.parts.now()).toISOString();

  private async takeText(
    connection: ReportingConnection,
    { text, ...more }: { id: string; from: string; to: string; text: string; at: string },
  ): Promise<void> {
    const cut = storableText(text.slice(0, LONGEST));
    const data = {
      ...more,
      from: more.from.slice(0, 60),
      to: more.to.slice(0, 60),
      text: cut,
      button: false,
      name: '',
    };
    await this.parts.reports.take(
      connection,
      'text',
      { means: 'received', data },
      Buffer.from(storableText(text), 'utf8'),
    );
  }

  private async takePart(connection: ReportingConnection, got: HandedOver, part: Part): Promise<void> {
    const { pool } = this.parts;
    const of = [connection.id, got.from.slice(0, 60), got.to.slice(0, 60), part.reference];
    await pool.query(
      `insert into text_part (connection_id, sender, recipient, reference, number, total, business_id, text, at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9) on conflict do nothing`,
      [...of, part.number, part.total, connection.business_id, storableText(got.text), this.now()],
    );
    const { rows } = await pool.query<{ n: number }>(
      'select count(*)::int as n from text_part where connection_id = $1 and sender = $2 and recipient = $3 and reference = $4',
      of,
    );
    if (rows[0]!.n >= part.total) await this.takeParts(connection, of);
  }

  /** Taken under one name whoever does it, and let go afterwards: a crash in between takes nothing twice. */
  private async takeParts(connection: ReportingConnection, of: readonly unknown[]): Promise<void> {
    const { pool } = this.parts;
    const { rows } = await pool.query<{
      number: number;
      total: number;
      text: string;
      at: Date;
      sender: string;
      recipient: string;
    }>(
      `select number, total, text, at, sender, recipient from text_part
       where connection_id = $1 and sender = $2 and recipient = $3 and reference = $4 order by number`,
      [...of],
    );
    const first = rows[0];
    if (!first) return;
    const at = new Date(Math.min(...rows.map((row) => row.at.getTime()))).toISOString();
    await this.takeText(connection, {
      id: `${of[3]} ${first.sender} ${at}`.slice(0, 200),
      ...{ from: first.sender, to: first.recipient, text: joined(rows, first.total), at },
    });
    await pool.query(
      'delete from text_part where connection_id = $1 and sender = $2 and recipient = $3 and reference = $4',
      [...of],
    );
  }

  /** What was written is shown, though a part of it never came. */
  private async showWhatStayedInParts(): Promise<void> {
    const { rows } = await this.parts.pool.query<
      ReportingConnection & { sender: string; recipient: string; reference: string }
    >(
      `select distinct c.id, c.business_id, c.settings, b.country, p.sender, p.recipient, p.reference
       from text_part p join connection c on c.id = p.connection_id join business b on b.id = c.business_id
       where p.at < now() - interval '${PARTS_MINUTES} minutes'
         and not exists (select from text_part q where q.connection_id = p.connection_id and q.sender = p.sender and q.recipient = p.recipient
           and q.reference = p.reference and q.at > now() - interval '${PARTS_MINUTES} minutes') limit 100`,
    );
    for (const { sender, recipient, reference, ...connection } of rows)
      await this.takeParts(connection, [connection.id, sender, recipient, reference]);
  }

  private async takeReceipt(connection: ReportingConnection, got: HandedOver): Promise<void> {
    const receipt = receiptOf(got);
    if (!receipt || receipt.is === 'on its way') return;
    const name = await this.nameOf(connection.id, receipt.id);
    // About a text that somebody else sent by this account, or so long ago that nobody asks.
    if (!name) return;
    const outcome = receipt.is === 'delivered' ? 'delivered' : 'undelivered';
    const all = await inTransaction(this.parts.pool, async (client) => {
      // Whoever reports on another part of the same text waits here.
      await client.query('select from delivery where id = $1 for update', [name.delivery_id]);
      await client.query('update taken_message set outcome = $3 where connection_id = $1 and remote_id = $2', [
        ...[connection.id, name.remote_id, outcome],
      ]);
      const { rows } = await client.query<{ outcome: string | null }>(
        'select outcome from taken_message where delivery_id = $1',
        [name.delivery_id],
      );
      return rows.map((row) => row.outcome);
    });
    const about = { reference: name.delivery_id, at: this.now() };
    const raw = Buffer.from(got.text, 'utf8');
    if (outcome === 'undelivered')
      await this.parts.reports.take(
        connection,
        'text',
        { means: 'undelivered', data: { ...about, code: '', detail: receipt.detail } },
        raw,
      );
    else if (all.every((one) => one === 'delivered'))
      await this.parts.reports.take(connection, 'text', { means: 'delivered', data: about }, raw);
  }

  /** The text a receipt names. */
  private async nameOf(connectionId: string, id: string): Promise<{ remote_id: string; delivery_id: string } | null> {
    const until = this.parts.now() + OVERTAKES_MS;
    const find = async (names: readonly string[]) => {
      const { rows } = await this.parts.pool.query<{ remote_id: string; delivery_id: string }>(
        'select remote_id, delivery_id from taken_message where connection_id = $1 and remote_id = any($2::text[]) limit 1',
        [connectionId, names],
      );
      return rows[0] ?? null;
    };
    const others = sameIds(id).filter((name) => name !== id);
    for (;;) {
      const found = (await find([id])) ?? (this.otherNotation.has(connectionId) ? await find(others) : null);
      if (found) return found;
      if (this.parts.now() > until) break;
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    }
    const found = await find(others);
    if (found) this.otherNotation.add(connectionId);
    return found;
  }
}
