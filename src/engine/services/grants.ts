import { createHash } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import type pg from 'pg';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import { type Given, renewed, type TokenAsk } from '../../gateways/described/token-service.ts';
import { type Grants, renewAfter, type Token } from '../../gateways/described/tokens.ts';
import type { HttpCaller } from '../../gateways/http.ts';
import { accessOf } from './access-of.ts';

/** Longer than one call takes at most: a process that dies while it renews is waited for no longer. Milliseconds. */
const RENEWING_MS = 35_000;
const LOOK_AGAIN_MS = 150;
/** A token younger than this that is not accepted is not the reason: renewing it again would help nobody. Milliseconds. */
const YOUNG_MS = 30_000;
/** What is never used is renewed so often all the same: many services let it end otherwise, and one hears of trouble before it is needed. */
const UNUSED = '20 hours';

const ANEW = 'Open the connection and choose “Allow access”.';

interface Row {
  secret: string;
  given_by: string;
  renew_at: Date | null;
  ended_at: Date | null;
  problem: string;
}
interface Opened {
  access: string;
  refresh: string | null;
}

/** Of the client and the address a token is given by. */
export const givenBy = ({ tokenAddress, clientId }: TokenAsk): string =>
  createHash('sha256')
    .update(JSON.stringify([tokenAddress, clientId]))
    .digest('hex');

/** How what was given is stored. */
export const sealGiven = (secrets: SecretBox, { access, refresh }: Given): string =>
  secrets.seal(JSON.stringify({ access, refresh } satisfies Opened));
export const renewAt = ({ lastsMs }: Given, now: number): Date | null =>
  lastsMs === null ? null : new Date(now + renewAfter(lastsMs));

/**
 * Tokens people have allowed, in the database: what renews one may be good once only (RFC 9700 §4.14.2), so that of all processes one renews it and the
 * others wait for that.
 */
export class ServiceGrants implements Grants {
  private readonly kept = new LRUCache<string, { token: string; by: string; renewAt: number }>({ max: 500 });
  private readonly under = new Map<string, Promise<Token>>();

  constructor(
    private readonly parts: { pool: pg.Pool; secrets: SecretBox; http: Pick<HttpCaller, 'call'>; now: () => number },
  ) {}

  async token(connectionId: string, ask: TokenAsk): Promise<Token> {
    const kept = this.kept.get(connectionId);
    if (kept && kept.renewAt > this.parts.now() && kept.by === givenBy(ask)) return { ok: true, token: kept.token };
    return this.once(connectionId, ask, false);
  }

  async forget(connectionId: string, token: string): Promise<void> {
    if (this.kept.get(connectionId)?.token === token) this.kept.delete(connectionId);
    const row = await this.row(connectionId);
    if (!row || this.open(row.secret).access !== token) return;
    await this.parts.pool.query(
      'update service_grant set renew_at = $3 where connection_id = $1 and secret = $2 and renewed_at < $4',
      [connectionId, row.secret, new Date(this.parts.now()), new Date(this.parts.now() - YOUNG_MS)],
    );
  }

  /** What is not kept here any more: it was allowed anew, or is no longer. */
  drop(connectionId: string): void {
    this.kept.delete(connectionId);
  }

  /** Renews what nobody has used for a while. */
  async renewUnused(): Promise<void> {
    const { pool, secrets, now } = this.parts;
    const { rows } = await pool.query<{
      id: string;
      kind: ConnectionKind;
      name: string;
      settings: ConnectionSettings;
      secret: string | null;
    }>(
      `select c.id, c.kind, c.name, c.settings, c.secret from service_grant g join connection c on c.id = g.connection_id join business b on b.id = c.business_id
       where g.ended_at is null and g.renewed_at < $1::timestamptz - interval '${UNUSED}' and c.removed_at is null and b.removed_at is null limit 500`,
      [new Date(now())],
    );
    for (const { secret, ...row } of rows) {
      const access = accessOf({ ...row, secret: secret === null ? null : secrets.open(secret) });
      if (access) await this.once(row.id, access.ask, true);
    }
  }

  private once(connectionId: string, ask: TokenAsk, unused: boolean): Promise<Token> {
    const under = this.under.get(connectionId);
    if (under) return under;
    const asking = this.fetch(connectionId, ask, unused).finally(() => this.under.delete(connectionId));
    this.under.set(connectionId, asking);
    return asking;
  }

  private open(secret: string): Opened {
    return JSON.parse(this.parts.secrets.open(secret)) as Opened;
  }

  private async row(connectionId: string): Promise<Row | null> {
    const { rows } = await this.parts.pool.query<Row>(
      'select secret, given_by, renew_at, ended_at, problem from service_grant where connection_id = $1',
      [connectionId],
    );
    return rows[0] ?? null;
  }

  private async fetch(connectionId: string, ask: TokenAsk, unused: boolean): Promise<Token> {
    const { pool, now } = this.parts;
    const by = givenBy(ask);
    // Whatever is to go by it is kept for whoever allows it again.
    const waits = (detail: string): Token => ({ ok: false, refused: false, detail });
    for (const end = now() + RENEWING_MS; now() < end; await new Promise((wait) => setTimeout(wait, LOOK_AGAIN_MS))) {
      const row = await this.row(connectionId);
      if (!row) return waits(`Nobody has allowed access yet. ${ANEW}`);
      if (row.given_by !== by) return waits(`The address or the client has changed since access was allowed. ${ANEW}`);
      if (row.ended_at) return waits(`${row.problem} ${ANEW}`);
      const { access, refresh } = this.open(row.secret);
      const old = row.renew_at !== null && row.renew_at.getTime() <= now();
      if (!old && !(unused && refresh)) return this.keep(connectionId, access, by, row.renew_at);
      if (!refresh) {
        await this.end(
          connectionId,
          row.secret,
          'What was allowed is over, and the service gave nothing to renew it by.',
        );
        continue;
      }
      // Of all processes one renews it: what renews may be good once only.
      const taken = await pool.query(
        `update service_grant set renewing_until = $3 where connection_id = $1 and secret = $2 and ended_at is null and (renewing_until is null or renewing_until < $4)`,
        [connectionId, row.secret, new Date(now() + RENEWING_MS), new Date(now())],
      );
      if (taken.rowCount === 1) return this.renew(connectionId, ask, row.secret, refresh);
      unused = false;
    }
    return { ok: false, refused: false, detail: 'A token to sign in with is being renewed, and that takes too long.' };
  }

  private async renew(connectionId: string, ask: TokenAsk, secret: string, refresh: string): Promise<Token> {
    const { pool, secrets, http, now } = this.parts;
    const told = await renewed(http, ask, refresh);
    if (!told.ok) {
      if (told.over) await this.end(connectionId, secret, `The service does not let us in any more. ${told.detail}`);
      else
        await pool.query('update service_grant set renewing_until = null where connection_id = $1 and secret = $2', [
          connectionId,
          secret,
        ]);
      return {
        ok: false,
        refused: told.refused && !told.over,
        detail: told.over ? `${told.detail} ${ANEW}` : told.detail,
      };
    }
    const at = renewAt(told.given, now());
    await pool.query(
      'update service_grant set secret = $3, renew_at = $4, renewed_at = $5, renewing_until = null where connection_id = $1 and secret = $2',
      [connectionId, secret, sealGiven(secrets, told.given), at, new Date(now())],
    );
    return this.keep(connectionId, told.given.access, givenBy(ask), at);
  }

  private keep(connectionId: string, token: string, by: string, at: Date | null): Token {
    this.kept.set(connectionId, { token, by, renewAt: at?.getTime() ?? Number.POSITIVE_INFINITY });
    return { ok: true, token };
  }

  /** It is worth nothing any more: somebody is told once, and what was to go by it waits. */
  private async end(connectionId: string, secret: string, problem: string): Promise<void> {
    await this.parts.pool.query(END, [connectionId, secret, problem, new Date(this.parts.now())]);
  }
}

const END = `
with over as (update service_grant set ended_at = $4, problem = $3, renewing_until = null where connection_id = $1 and secret = $2 and ended_at is null
    returning connection_id, business_id),
  health as (insert into connection_health as h (connection_id, business_id, trouble_since, problem, told_at) select connection_id, business_id, $4, $3, $4 from over
    on conflict (connection_id) do update set trouble_since = coalesce(h.trouble_since, excluded.trouble_since), problem = excluded.problem, told_at = excluded.told_at)
insert into needs_you (id, business_id, kind, subject, title, detail, created_at)
select gen_random_uuid(), over.business_id, 'service_trouble', 'connection:' || over.connection_id, c.name || ': access has ended', $3 || ' Allow it anew on the page of the connection; what was to go by it is tried again for as long as its step says.', $4
from over join connection c on c.id = over.connection_id
on conflict (business_id, subject) do update set title = excluded.title, detail = excluded.detail, created_at = excluded.created_at, settled_at = null, settled_by_id = null`;
