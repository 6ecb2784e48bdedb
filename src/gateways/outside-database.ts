import { Socket } from 'node:net';
import pg from 'pg';
import { type AddressGuard, AddressRefused } from './address-guard.ts';
import { believing, certificateWords } from './http.ts';

/** A PostgreSQL database of the business's own. */
export interface DatabaseAccount {
  /** postgres://host:port/name, with `?sslmode=require` where it wants TLS. */
  address: string;
  user: string;
  password: string;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}
export interface OutsideColumn {
  name: string;
  /** As PostgreSQL calls it: "timestamp with time zone". */
  type: string;
}
/** How far rows have been read: the mark of the last and its key. */
export interface RowPlace {
  mark: string;
  key: string;
}
export type DatabaseAnswer<T> = { ok: true; value: T } | { ok: false; refused: boolean; problem: string };

const CONNECT_MS = 5000;
const STATEMENT_MS = 15_000;
/** While a lead waits for its answer. */
const LOOK_UP_MS = 5000;
/** Marks of rows that are still being written may come in after later ones: rows of so long ago are looked at again. */
const MOST_COLUMNS = 200;

const quoted = (name: string) => pg.escapeIdentifier(name);
/** "schema.view", each part quoted. */
const place = (view: string) => view.split('.').map(quoted).join('.');

/** Reads views of outside databases, and never writes: each look is one read-only transaction with a time limit. */
export class OutsideDatabases {
  constructor(private readonly guard: AddressGuard) {}

  /** Views and tables this user may read, as "schema.name". */
  views(account: DatabaseAccount): Promise<DatabaseAnswer<string[]>> {
    return this.read(account, async (client) => {
      const { rows } = await client.query<{ name: string }>(
        `select table_schema || '.' || table_name as name from information_schema.tables
         where table_schema not in ('pg_catalog', 'information_schema') and has_table_privilege(quote_ident(table_schema) || '.' || quote_ident(table_name), 'select')
           and table_schema !~ '[.]' and table_name !~ '[.]' order by table_type desc, 1 limit 500`,
      );
      return rows.map(({ name }) => name);
    });
  }

  columns(account: DatabaseAccount, view: string): Promise<DatabaseAnswer<OutsideColumn[]>> {
    return this.read(account, async (client) => {
      const { rows } = await client.query<OutsideColumn>(
        `select column_name as name, data_type as type from information_schema.columns where table_schema || '.' || table_name = $1
         order by ordinal_position limit ${MOST_COLUMNS}`,
        [view],
      );
      return rows;
    });
  }

  /** Rows behind a place, in the order of their marks; `most` of them. */
  rows(
    account: DatabaseAccount,
    { view, key, mark }: { view: string; key: string; mark: string },
    after: RowPlace | null,
    most: number,
  ): Promise<DatabaseAnswer<{ place: RowPlace; row: Record<string, unknown> }[]>> {
    return this.read(account, async (client) => {
      const types = await client.query<{ name: string; type: string }>(
        `select a.attname as name, format_type(a.atttypid, a.atttypmod) as type from pg_attribute a where a.attrelid = $1::regclass and a.attname = any($2) and not a.attisdropped`,
        [place(view), [key, mark]],
      );
      const typeOf = (name: string) => types.rows.find((row) => row.name === name)?.type;
      if (!typeOf(key) || !typeOf(mark)) throw new Error(`a column is gone: ${typeOf(key) ? mark : key}`);
      const [k, m] = [`t.${quoted(key)}`, `t.${quoted(mark)}`];
      const where = after ? `and (${m}, ${k}) > ($2::text::${typeOf(mark)}, $3::text::${typeOf(key)})` : '';
      const { rows } = await client.query<{ mark: string; key: string; row: Record<string, unknown> }>(
        `select ${m}::text as mark, ${k}::text as key, to_jsonb(t) as row from ${place(view)} t where ${m} is not null and ${k} is not null ${where}
         order by ${m}, ${k} limit $1`,
        [most, ...(after ? [after.mark, after.key] : [])],
      );
      return rows.map((one) => ({ place: { mark: one.mark, key: one.key }, row: one.row }));
    });
  }

  /** The last row by its mark; null when there is none. */
  async last(
    account: DatabaseAccount,
    of: { view: string; key: string; mark: string },
  ): Promise<DatabaseAnswer<{ place: RowPlace; row: Record<string, unknown> } | null>> {
    return this.read(account, async (client) => {
      const [k, m] = [`t.${quoted(of.key)}`, `t.${quoted(of.mark)}`];
      const { rows } = await client.query<{ mark: string; key: string; row: Record<string, unknown> }>(
        `select ${m}::text as mark, ${k}::text as key, to_jsonb(t) as row from ${place(of.view)} t where ${m} is not null and ${k} is not null order by ${m} desc, ${k} desc limit 1`,
      );
      return rows[0] ? { place: { mark: rows[0].mark, key: rows[0].key }, row: rows[0].row } : null;
    });
  }

  /**
   * The row of a view whose column is what is given, its columns as text; null when there is none. Where none is the very same, upper and lower case
   * count for the same.
   */
  find(
    account: DatabaseAccount,
    { view, by, gives, newestBy }: { view: string; by: string; gives: readonly string[]; newestBy: string },
    value: string,
  ): Promise<DatabaseAnswer<Record<string, string> | null>> {
    return this.read(
      account,
      async (client) => {
        const types = await client.query<{ name: string; type: string; kind: string }>(
          `select a.attname as name, format_type(a.atttypid, a.atttypmod) as type, t.typcategory as kind from pg_attribute a join pg_type t on t.oid = a.atttypid
           where a.attrelid = $1::regclass and a.attname = any($2) and not a.attisdropped`,
          [place(view), [by, ...gives, ...(newestBy ? [newestBy] : [])]],
        );
        const gone = [by, ...gives, newestBy].find((name) => name && !types.rows.some((row) => row.name === name));
        if (gone) throw new Error(`a column is gone: ${gone}`);
        const { type, kind } = types.rows.find((row) => row.name === by)!;
        const columns = gives.map((name, i) => `t.${quoted(name)}::text as c${i}`).join(', ');
        const newest = newestBy ? `order by t.${quoted(newestBy)} desc nulls last` : '';
        const ask = async (where: string) => {
          const { rows } = await client.query<Record<string, string | null>>(
            `select ${columns} from ${place(view)} t where ${where} ${newest} limit 1`,
            [value],
          );
          const row = rows[0];
          return row ? Object.fromEntries(gives.map((name, i) => [name, row[`c${i}`] ?? ''])) : null;
        };
        await client.query('savepoint asked');
        try {
          const found = await ask(`t.${quoted(by)} = $1::text::${type}`);
          if (found || kind !== 'S' || value === '') return found;
        } catch (error) {
          // What is no number is the number of nobody: SQLSTATE class 22, what is given does not fit.
          if (!String((error as { code?: string }).code).startsWith('22')) throw error;
          await client.query('rollback to savepoint asked');
          return null;
        }
        return ask(`lower(t.${quoted(by)}::text) = lower($1)`);
      },
      LOOK_UP_MS,
    );
  }

  private async read<T>(
    account: DatabaseAccount,
    work: (client: pg.Client) => Promise<T>,
    most = STATEMENT_MS,
  ): Promise<DatabaseAnswer<T>> {
    let client: pg.Client | null = null;
    try {
      const url = new URL(account.address);
      this.guard.check(url);
      client = new pg.Client({
        host: url.hostname.replace(/^\[|\]$/g, ''),
        port: Number(url.port || 5432),
        database: decodeURIComponent(url.pathname.slice(1)),
        user: account.user,
        password: account.password,
        ...(sslOf(url, account.authority) ?? {}),
        connectionTimeoutMillis: CONNECT_MS,
        statement_timeout: most,
        query_timeout: most + 1000,
        application_name: 'pine-bell-reader',
        stream: () => guardedStream(this.guard),
      });
      client.on('error', () => {});
      await client.connect();
      await client.query('begin transaction isolation level repeatable read read only');
      const value = await work(client);
      await client.query('commit');
      return { ok: true, value };
    } catch (error) {
      return { ok: false, ...wordsOf(error, most) };
    } finally {
      await client?.end().catch(() => {});
    }
  }
}

const sslOf = (url: URL, authority: string | undefined) => {
  const mode = url.searchParams.get('sslmode');
  // As libpq has them: `require` encrypts, `verify-full` asks who it is.
  return mode === 'require'
    ? { ssl: { rejectUnauthorized: false } }
    : mode === 'verify-full'
      ? { ssl: believing(authority) }
      : null;
};

/** A connection that is judged by where its name leads at the moment of connecting. */
function guardedStream(guard: AddressGuard): Socket {
  const socket = new Socket();
  const connect = socket.connect.bind(socket) as (options: object) => Socket;
  socket.connect = ((port: number, host: string) => {
    socket.once('connect', () => {
      const refusal = guard.refuses(socket.remoteAddress ?? '', port);
      if (refusal) socket.destroy(refusal);
    });
    return connect({ port, host, ...(guard.lookup ? { lookup: guard.lookup } : {}) });
  }) as Socket['connect'];
  return socket;
}

function wordsOf(error: unknown, most: number): { refused: boolean; problem: string } {
  const { code = '', message = String(error) } = error as { code?: string; message?: string };
  if (error instanceof AddressRefused) return { refused: true, problem: `The database is not asked: ${message}.` };
  if (code === 'ERR_INVALID_URL') return { refused: true, problem: 'Write the address as postgres://host:5432/name.' };
  const certificate = certificateWords(code);
  if (certificate) return { refused: false, problem: certificate.replace('Its', 'The database’s') };
  // SQLSTATE class 28: invalid authorization; 3D000: no such database; 42501: may not; 57014: took too long.
  if (code.startsWith('28')) return { refused: true, problem: 'The database does not accept this user and password.' };
  if (code === '3D000') return { refused: true, problem: 'There is no database of this name.' };
  if (code === '42501') return { refused: true, problem: 'This user may not read that.' };
  if (code === '42P01' || /a column is gone/.test(message))
    return { refused: true, problem: 'What is read is not there any more: look at the view and its columns.' };
  if (code === '57014') return { refused: false, problem: `The database took longer than ${most / 1000} seconds.` };
  if (
    ['ECONNREFUSED', 'ENOTFOUND', 'EAI_AGAIN', 'ECONNRESET', 'ETIMEDOUT'].includes(code) ||
    /timeout|terminated/i.test(message)
  )
    return { refused: false, problem: 'The database does not answer.' };
  return { refused: false, problem: `The database says: ${message.slice(0, 200)}.` };
}
