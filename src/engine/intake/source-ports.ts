import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import type { DescribedCaller } from '../../gateways/described/described-caller.ts';
import type { Grants } from '../../gateways/described/tokens.ts';
import type { FilePlaces } from '../../gateways/file-place.ts';
import type { HttpCaller } from '../../gateways/http.ts';
import type { MailAccounts } from '../../gateways/mail-account.ts';
import type { OutsideDatabases } from '../../gateways/outside-database.ts';
import type { StrangerReader } from '../../reading/stranger-reader.ts';
import {
  type FileStore,
  type SheetChange,
  type SheetStore,
  type SourcePorts,
  trouble,
} from '../../sources/source-module.ts';
import type { TableReader } from '../../tables/table-reader.ts';
import { accessOf } from '../services/access-of.ts';
import type { SettingsCache } from '../settings-cache.ts';

/** Gives each business's sources their way to the outside world and to what is stored, of that business only. */
export class SourcePortsFactory {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      secrets: SecretBox;
      http: HttpCaller;
      described: DescribedCaller;
      settingsCache: SettingsCache;
      databases: OutsideDatabases;
      mailboxes: MailAccounts;
      places: FilePlaces;
      grants: Grants;
      tables: TableReader;
      reader: StrangerReader;
      now: () => number;
    },
  ) {}

  /** `sourceId` is empty while a source is being set up. */
  of(businessId: string, businessName: string, sourceId = ''): SourcePorts {
    const { pool, secrets, http, databases, mailboxes, places, grants, described, settingsCache, tables, reader, now } =
      this.parts;
    /** A connection of the business, its secret opened; null when it is gone, or of another kind than is asked for. */
    const opened = async (connectionId: string, kind?: ConnectionKind) => {
      const { rows } = await pool.query<{
        id: string;
        kind: ConnectionKind;
        name: string;
        settings: ConnectionSettings;
        secret: string | null;
      }>(
        `select id, kind, name, settings, secret from connection where id::text = $1 and business_id = $2 and removed_at is null and ($3::text is null or kind = $3)`,
        [connectionId, businessId, kind ?? null],
      );
      const row = rows[0];
      if (!row) return null;
      const { address, user = '', authority, hostKey } = row.settings;
      const secret = row.secret === null ? null : secrets.open(row.secret);
      return { address, user, authority, hostKey, secret, access: accessOf({ ...row, secret }) };
    };
    return {
      http,
      described,
      describedAccount: async (connectionId) =>
        (await settingsCache.provisionsOf(businessId)).services.get(connectionId) ?? null,
      databases,
      databaseAccount: async (connectionId) => {
        const found = await opened(connectionId, 'database');
        return found && { ...found, password: found.secret ?? '' };
      },
      mailboxes,
      mailAccount: async (connectionId) => {
        const found = await opened(connectionId, 'mail_account');
        if (!found) return trouble('This mail account is not connected any more. Choose another.');
        if (!found.access) return { ok: true, account: { ...found, password: found.secret ?? '' } };
        const got = await grants.token(connectionId, found.access.ask);
        return got.ok
          ? { ok: true, account: { ...found, password: '', token: got.token } }
          : trouble(`The mailbox cannot be signed in to. ${got.detail}`);
      },
      places,
      filePlace: async (connectionId) => {
        const found = await opened(connectionId, 'file_place');
        return found && { ...found, password: found.secret ?? '' };
      },
      tables,
      feed: (bytes, address) =>
        reader
          .read('feed', { bytes, address })
          .catch((error: Error) => ({ ok: false as const, problem: error.message })),
      businessName,
      get now() {
        return now();
      },
      isConnected: async (connectionId) => (await opened(connectionId)) !== null,
      sheets: sheetStore(pool, businessId),
      files: fileStore(pool, sourceId),
      chatForms: async () =>
        (
          await pool.query(
            'select id, name from chat_form where business_id = $1 and removed_at is null order by name',
            [businessId],
          )
        ).rows,
      seen: async (externalIds) => {
        if (externalIds.length === 0) return new Set();
        const { rows } = await pool.query<{ external_id: string }>(
          'select external_id from arrival where source_id = $1 and external_id = any($2::text[])',
          [sourceId, externalIds],
        );
        return new Set(rows.map((row) => row.external_id));
      },
    };
  }
}

/** Of files that are fetched again and again so many are kept, to see what was in them. */
const MOST_FETCHED = 5;

const CHANGE = `r.id, r.cells, r.revision, r.position,
  (select count(*)::int from sheet_row b where b.tab_id = r.tab_id and (b.position, b.id) <= (r.position, r.id)) as number`;

function sheetStore(pool: pg.Pool, businessId: string): SheetStore {
  return {
    async tabs(query) {
      const { rows } = await pool.query<{ id: string; name: string; sheetName: string }>(
        `select t.id, t.name, s.name as "sheetName" from sheet_tab t join sheet s on s.id = t.sheet_id
         where s.business_id = $1 and s.removed_at is null and (s.name || ' ' || t.name) ilike $2 order by s.name, t.position limit 200`,
        [businessId, `%${query.replace(/[\\%_]/g, '\\$&')}%`],
      );
      return rows;
    },
    async tab(id) {
      const { rows } = await pool.query(
        `select t.sheet_id as "sheetId", s.name as "sheetName", t.name, t.columns, t.revision,
           (select count(*)::int from sheet_row r where r.tab_id = t.id) as rows
         from sheet_tab t join sheet s on s.id = t.sheet_id where t.id::text = $1 and s.business_id = $2 and s.removed_at is null`,
        [id, businessId],
      );
      return rows[0] ?? null;
    },
    async positionOf(tabId, number) {
      if (number < 1) return 0;
      const { rows } = await pool.query<{ position: number }>(
        'select position from sheet_row where tab_id = $1 order by position, id offset $2 limit 1',
        [tabId, number - 1],
      );
      if (rows[0]) return rows[0].position;
      // Beyond the last row: as far below it as rows would stand that are added one by one.
      const end = await pool.query<{ last: number; n: number }>(
        'select coalesce(max(position), 0) as last, count(*)::int as n from sheet_row where tab_id = $1',
        [tabId],
      );
      return end.rows[0]!.last + (number - end.rows[0]!.n);
    },
    async changes(tabId, { after, belowPosition, settledBefore, most }) {
      // Revisions are given out under the tab's lock, so that what was typed in just now always stands at the end.
      const { rows } = await pool.query<SheetChange & { settled: boolean }>(
        `select ${CHANGE}, r.updated_at <= $5 as settled from sheet_row r
         where r.tab_id = $1 and (r.revision, r.position) > ($2::int, $3::float8) and r.position > $4
         order by r.revision, r.position limit $6`,
        [tabId, after.revision, after.position, belowPosition, new Date(settledBefore), most],
      );
      const first = rows.findIndex((row) => !row.settled);
      return { rows: first < 0 ? rows : rows.slice(0, first), unsettled: first >= 0 };
    },
    async lastRow(tabId) {
      const { rows } = await pool.query<SheetChange>(
        `select ${CHANGE} from sheet_row r where r.tab_id = $1 and r.cells <> '{}' order by r.position desc, r.id desc limit 1`,
        [tabId],
      );
      return rows[0] ?? null;
    },
  };
}

function fileStore(pool: pg.Pool, sourceId: string): FileStore {
  const one = async (state: string, order: string) => {
    const { rows } = await pool.query<{ id: string; bytes: Buffer }>(
      `select id, bytes from stored_file where source_id = $1 and ${state} order by received_at ${order}, id ${order} limit 1`,
      [sourceId],
    );
    return rows[0] ?? null;
  };
  return {
    next: () => one("state = 'new'", 'asc'),
    newest: () => one("state <> 'refused'", 'desc'),
    async add(name, bytes) {
      await pool.query(
        `insert into stored_file (id, business_id, source_id, name, bytes, size, received_at, state)
         select $1, business_id, id, $3, $4, $5, now(), 'new' from source where id = $2
           and not exists (select from (select bytes from stored_file where source_id = $2 order by received_at desc, id desc limit 1) newest where newest.bytes = $4)`,
        [uuidv7(), sourceId, name.slice(0, 200), bytes, bytes.length],
      );
      await pool.query(
        `delete from stored_file where source_id = $1 and state <> 'new' and id not in (select id from stored_file where source_id = $1 order by received_at desc, id desc limit ${MOST_FETCHED})`,
        [sourceId],
      );
    },
    async finish(id, { state, problem, rows, fresh }) {
      await pool.query('update stored_file set state = $2, problem = $3, rows = $4, fresh = $5 where id = $1', [
        id,
        state,
        problem,
        rows,
        fresh,
      ]);
      if (state === 'refused') await noteRefusedFile(pool, id);
      else await settleRefusedFile(pool, sourceId);
    },
    async learn(settings) {
      await pool.query('update source set settings = settings || $2 where id = $1', [sourceId, settings]);
    },
  };
}

/** Puts a file that could not be read on the pile; one entry for each source, until a good file comes. */
export async function noteRefusedFile(pool: pg.Pool, fileId: string): Promise<void> {
  await pool.query(
    `insert into needs_you (id, business_id, kind, subject, title, detail, source_id, created_at)
     select gen_random_uuid(), f.business_id, 'source_trouble', 'source:' || s.id || ':file', s.name || ': a file could not be read',
       coalesce(nullif(f.name, '') || ': ', '') || coalesce(f.problem, '') || ' The file is kept.', s.id, now()
     from stored_file f join source s on s.id = f.source_id where f.id = $1
     on conflict (business_id, subject) do update set detail = excluded.detail, created_at = excluded.created_at, settled_at = null, settled_by_id = null`,
    [fileId],
  );
}

async function settleRefusedFile(pool: pg.Pool, sourceId: string): Promise<void> {
  await pool.query(
    'update needs_you set settled_at = now() where source_id = $1 and subject = $2 and settled_at is null',
    [sourceId, `source:${sourceId}:file`],
  );
}
