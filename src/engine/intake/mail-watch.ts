import type pg from 'pg';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import type { Grants } from '../../gateways/described/tokens.ts';
import type { MailAccounts } from '../../gateways/mail-account.ts';
import { PlainLoop } from '../loop.ts';
import { accessOf } from '../services/access-of.ts';

/** After a watch that did not come about: wrong passwords again and again shut an account. Milliseconds, the first and the longest pause. */
const FIRST_PAUSE_MS = 5000;
const LONGEST_PAUSE_MS = 15 * 60_000;
/** Folders watched by one process at most; those beyond are looked at each minute all the same. */
const MOST = 200;

interface Watched {
  id: string;
  folder: string;
  connection: string;
  kind: ConnectionKind;
  name: string;
  settings: ConnectionSettings;
  secret: string | null;
}

/** Has mail servers say when something comes into a folder that is listened to, so that it comes in within a second. */
export class MailWatch {
  /** Looks which folders are to be watched, and watches those that are not: how often, the caller says. */
  readonly loop = new PlainLoop('watched mailboxes', () => this.look(), null);
  /** By source; what it was begun with, and what ends it. */
  private readonly watched = new Map<string, { what: string; end: () => void }>();

  /** By source: what did not come about, how often in a row, and until when it is let be. Times in milliseconds since 1970. */
  private readonly failed = new Map<string, { what: string; times: number; until: number }>();

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      secrets: SecretBox;
      mailboxes: MailAccounts;
      grants: Grants;
      /** Something is due to be fetched. */
      due: () => void;
      now: () => number;
    },
  ) {}

  private async look(): Promise<void> {
    const { pool } = this.parts;
    const { rows } = await pool.query<Watched>(
      `select s.id, s.settings ->> 'folder' as folder, c.id as connection, c.kind, c.name, c.settings, c.secret
       from source s join connection c on c.id::text = s.settings ->> 'connectionId' and c.business_id = s.business_id and c.removed_at is null
         join business b on b.id = s.business_id and b.removed_at is null
       where s.kind = 'mail-account' and s.state = 'live' and s.removed_at is null order by s.id limit ${MOST}`,
    );
    const wanted = new Map(rows.map((row) => [row.id, JSON.stringify(row)]));
    for (const [id, { what, end }] of this.watched) if (wanted.get(id) !== what) end();
    for (const [id, { what }] of this.failed) if (wanted.get(id) !== what) this.failed.delete(id);
    const now = this.parts.now();
    const open = rows.filter(({ id }) => !this.watched.has(id) && (this.failed.get(id)?.until ?? 0) <= now);
    await Promise.all(open.map((row) => this.watch(row, wanted.get(row.id)!)));
  }

  private async watch({ id, folder, connection, secret: sealed, ...row }: Watched, what: string): Promise<void> {
    const { secrets, mailboxes, grants, pool, due } = this.parts;
    const { settings } = row;
    const own = { what, end: () => {} };
    this.watched.set(id, own);
    const gone = () => {
      if (this.watched.get(id) === own) this.watched.delete(id);
    };
    const told = () =>
      void pool
        .query('update pull set next_at = now() where source_id = $1 and next_at > now()', [id])
        .then(due, () => {});
    const begin = async () => {
      const secret = sealed === null ? null : secrets.open(sealed);
      const access = accessOf({ ...row, id: connection, secret });
      const got = access ? await grants.token(connection, access.ask) : null;
      if (got && !got.ok) throw new Error(got.detail);
      const { address, user = '', authority } = settings;
      const account = { address, user, authority, password: got ? '' : (secret ?? ''), token: got?.token };
      return mailboxes.watch(account, folder, told, gone);
    };
    // What is in the way of it is told by the look each minute, which meets the same.
    await begin().then(
      (end) => {
        own.end = end;
        this.failed.delete(id);
        // What came between the last look and now.
        told();
      },
      () => {
        gone();
        const times = (this.failed.get(id)?.times ?? 0) + 1;
        const pause = Math.min(LONGEST_PAUSE_MS, FIRST_PAUSE_MS * 2 ** (times - 1));
        this.failed.set(id, { what, times, until: this.parts.now() + pause });
      },
    );
  }

  stop(): void {
    for (const { end } of this.watched.values()) end();
  }
}
