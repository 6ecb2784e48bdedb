import { LRUCache } from 'lru-cache';
import type pg from 'pg';
import type { Description } from '../core/described/description.ts';
import { isDescribed } from '../core/described/works.ts';
import { homeCountries } from '../core/message/may-text.ts';
import { columnKeys, type TableLookUp } from '../core/outside/table-look-up.ts';
import { takenBy, type WrittenTable } from '../core/outside/written-table.ts';
import type { LeadCard } from '../core/source/lead-card.ts';
import { Definition } from '../core/workflow/definition.ts';
import type { Catalogue, CatalogueService } from '../core/workflow/step-kind.ts';
import { type AccountOfService, describedAccount } from '../db/described-account.ts';
import type { ConnectionSettings } from '../db/entities/connection.ts';
import type { SecretBox } from '../db/secret-box.ts';
import type { FilePlaceAccount } from '../gateways/file-place.ts';
import type { DatabaseAccount } from '../gateways/outside-database.ts';
import type { SendingAccount } from '../steps/performers.ts';
import { bounceAddress } from './inbound/bounces.ts';
import { replyAddress } from './inbound/email-replies.ts';
import { accessOf } from './services/access-of.ts';
import { smppAccount } from './services/smpp-account.ts';

export interface KnownSource {
  id: string;
  kind: string;
  name: string;
  state: 'waiting' | 'live' | 'paused';
  settings: Record<string, unknown>;
  card: LeadCard;
  secret: string | null;
  mostPerMinute: number;
  business: KnownBusiness;
}

export interface KnownBusiness {
  id: string;
  name: string;
  country: string;
  timeZone: string;
  holidays: string[];
  locale: string;
}

/** Who sends for a business, with the accounts by connection id. */
export interface Provisions {
  catalogue: Catalogue;
  accounts: ReadonlyMap<string, SendingAccount>;
  /** Where companies are looked up; null when no directory is connected. */
  directoryAccount: AccountOfService | null;
  /** Services of every other kind that are described, by connection id. */
  services: ReadonlyMap<string, AccountOfService>;
  /** Databases that can be asked, by connection id. */
  databases: ReadonlyMap<string, KnownDatabase>;
  /** Places with tables rows are written to, by connection id. */
  places: ReadonlyMap<string, KnownPlace>;
}

/** An outside database, and what it can be asked. */
export interface KnownDatabase {
  account: DatabaseAccount;
  lookUps: readonly TableLookUp[];
}

/** A place files lie at, and the tables in them that rows are written to. */
export interface KnownPlace {
  account: FilePlaceAccount;
  tables: readonly WrittenTable[];
}

/** What can be written to files of a place in a run sheet. */
const writtenAt = (id: string, name: string, tables: readonly WrittenTable[]): CatalogueService => ({
  ...{ id, name, lookUps: [] },
  records: tables.map((table) => ({ key: table.key, label: table.label, takes: takenBy(table) })),
});

/** What an outside database can be asked in a run sheet. */
const askedOf = (id: string, name: string, lookUps: readonly TableLookUp[]): CatalogueService => ({
  ...{ id, name, records: [] },
  lookUps: lookUps.map(({ key, label, by, gives }) => ({
    ...{ key, label, takes: [{ key: 'value', label: by }], gives: columnKeys(gives) },
  })),
});

/** What a described service can be used for in a run sheet. */
const offeredBy = (id: string, name: string, { records, lookUps }: Description): CatalogueService => ({
  id,
  name,
  records: records.map(({ key, label, takes }) => ({ key, label: label || key, takes })),
  lookUps: lookUps.map(({ key, label, takes, gives }) => ({ key, label: label || key, takes, gives })),
});

/** Milliseconds a look-up is kept: a change made on a screen holds everywhere after at most this long. */
const KEEP_MS = 1000;

/** Look-ups the hot path needs for every lead, kept for a moment; versions never change, so they are kept for good. */
export class SettingsCache {
  private readonly kept = new LRUCache<string, { until: number; value: Promise<unknown> }>({ max: 5000 });
  private readonly versions = new LRUCache<string, Promise<{ definition: Definition; workflowName: string } | null>>({
    max: 1000,
  });

  constructor(
    private readonly pool: pg.Pool,
    private readonly secrets: SecretBox,
    private readonly publicUrl: string,
    private readonly now: () => number,
    /** Where mail to us is received; null when it is not. */
    private readonly mailDomain: string | null = null,
  ) {}

  private keep<T>(key: string, load: () => Promise<T>): Promise<T> {
    const found = this.kept.get(key);
    if (found && found.until > this.now()) return found.value as Promise<T>;
    const value = load();
    this.kept.set(key, { until: this.now() + KEEP_MS, value });
    value.catch(() => this.kept.delete(key));
    return value;
  }

  /** Forgets what may have changed; called after a change in this process. */
  forget(): void {
    this.kept.clear();
  }

  sourceByKey(key: string): Promise<KnownSource | null> {
    return this.keep(`key:${key}`, () => this.loadSource('s.key = $1 and s.removed_at is null', key));
  }

  sourceById(id: string): Promise<KnownSource | null> {
    return this.keep(`source:${id}`, () => this.loadSource('s.id = $1', id));
  }

  /** Sources that listen to what is written in chat, and are not paused. */
  chatSources(businessId: string): Promise<KnownSource[]> {
    return this.keep(`chat:${businessId}`, async () => {
      const { rows } = await this.pool.query<{ id: string }>(
        `select id from source where business_id = $1 and kind = 'chat-message' and removed_at is null and state <> 'paused' order by created_at, id`,
        [businessId],
      );
      const found = await Promise.all(rows.map(({ id }) => this.sourceById(id)));
      return found.filter((one) => one !== null);
    });
  }

  /** Sources that take what a described service tells by itself, and are not paused. */
  toldSources(businessId: string, connectionId: string): Promise<KnownSource[]> {
    return this.keep(`told:${connectionId}`, async () => {
      const { rows } = await this.pool.query<{ id: string }>(
        `select id from source where business_id = $1 and kind = 'service' and settings ->> 'connectionId' = $2 and settings ->> 'way' = 'push'
           and removed_at is null and state <> 'paused' order by created_at, id`,
        [businessId, connectionId],
      );
      const found = await Promise.all(rows.map(({ id }) => this.sourceById(id)));
      return found.filter((one) => one !== null);
    });
  }

  /** Past what is kept: for work that must not go by what held a second ago. */
  sourceNow(id: string): Promise<KnownSource | null> {
    return this.loadSource('s.id = $1', id);
  }

  businessOf(id: string): Promise<KnownBusiness> {
    return this.keep(`business:${id}`, async () => {
      const { rows } = await this.pool.query(
        'select id, name, country, time_zone as "timeZone", holidays, locale from business where id = $1',
        [id],
      );
      return rows[0];
    });
  }

  private async loadSource(where: string, value: string): Promise<KnownSource | null> {
    const { rows } = await this.pool.query(
      `select s.id, s.kind, s.name, s.state, s.settings, s.card, s.secret, s.most_per_minute, b.id as business_id, b.name as business_name, b.country, b.time_zone, b.holidays, b.locale
       from source s join business b on b.id = s.business_id where ${where}`,
      [value],
    );
    const row = rows[0];
    if (!row) return null;
    return {
      id: row.id,
      kind: row.kind,
      name: row.name,
      state: row.state,
      settings: row.settings,
      card: row.card,
      secret: row.secret === null ? null : this.secrets.open(row.secret),
      mostPerMinute: row.most_per_minute,
      business: {
        id: row.business_id,
        name: row.business_name,
        country: row.country,
        timeZone: row.time_zone,
        holidays: row.holidays,
        locale: row.locale,
      },
    };
  }

  version(id: string): Promise<{ definition: Definition; workflowName: string } | null> {
    const found = this.versions.get(id);
    if (found) return found;
    const value = this.pool
      .query(
        'select v.definition, w.name from workflow_version v join workflow w on w.id = v.workflow_id where v.id = $1',
        [id],
      )
      .then(({ rows }) =>
        rows[0] ? { definition: Definition.parse(rows[0].definition), workflowName: rows[0].name as string } : null,
      );
    this.versions.set(id, value);
    value.catch(() => this.versions.delete(id));
    return value;
  }

  provisionsOf(businessId: string): Promise<Provisions> {
    return this.keep(`provisions:${businessId}`, async () => {
      const [
        connections,
        people,
        tabs,
        tags,
        outcomes,
        sources,
        stages,
        lists,
        segments,
        chatTemplates,
        chatForms,
        emailTemplates,
        business,
      ] = await Promise.all([
        this.pool.query(
          // A business that is removed sends nothing, whatever still asks to.
          'select id, kind, name, settings, secret, report_key from connection where business_id = $1 and removed_at is null and exists (select from business where id = $1 and removed_at is null) order by created_at',
          [businessId],
        ),
        this.pool.query(
          'select p.id, p.name, p.email, m.test_phone as phone, m.working from membership m join person p on p.id = m.person_id where m.business_id = $1 order by p.name',
          [businessId],
        ),
        this.pool.query(
          `select t.id, case when count(*) over (partition by s.id) = 1 then s.name else s.name || ', ' || t.name end as name, t.columns
           from sheet_tab t join sheet s on s.id = t.sheet_id where s.business_id = $1 and s.removed_at is null order by s.name, t.position`,
          [businessId],
        ),
        this.pool.query('select id, name from tag where business_id = $1 and removed_at is null order by name', [
          businessId,
        ]),
        this.pool.query<{ name: string }>(
          'select name from outcome_kind where business_id = $1 and removed_at is null order by name',
          [businessId],
        ),
        this.pool.query('select id, name from source where business_id = $1 and removed_at is null order by name', [
          businessId,
        ]),
        this.pool.query(
          `select s.id, case when (select count(*) from pipeline where business_id = $1 and removed_at is null) = 1 then s.name else p.name || ': ' || s.name end as name
           from stage s join pipeline p on p.id = s.pipeline_id where p.business_id = $1 and p.removed_at is null order by p.name, s.position`,
          [businessId],
        ),
        this.pool.query(
          `select l.id, l.name, l.opt_in as "optIn", l.fields,
             -- Counted where it is told only: a long list takes its time.
             case when l.opt_in = 'double' then (select count(*)::int from list_member m where m.list_id = l.id and m.asked_at < now() - interval '1 day') else 0 end as asked,
             case when l.opt_in = 'double' then (select count(*)::int from list_member m where m.list_id = l.id and m.asked_at < now() - interval '1 day' and m.confirmed_at is not null) else 0 end as confirmed,
             coalesce((select string_agg('its sequence “' || w.name || '” ' || case w.state when 'paused' then 'is paused' else 'is not live yet' end, '; ')
               from workflow w where w.business_id = l.business_id and w.removed_at is null and w.state <> 'live' and w.draft -> 'sources' ? l.source_id::text), '') as stopped
           from nurture_list l where l.business_id = $1 and l.removed_at is null order by l.name`,
          [businessId],
        ),
        this.pool.query('select id, name from segment where business_id = $1 and removed_at is null order by name', [
          businessId,
        ]),
        this.pool.query(
          `select t.id, t.name, (select jsonb_build_object('remoteId', v.remote_id, 'content', v.content) from chat_template_version v
               where v.template_id = t.id and v.state = 'approved' order by v.number desc limit 1) as approved
             from chat_template t where t.business_id = $1 and t.removed_at is null order by t.name`,
          [businessId],
        ),
        this.pool.query(
          `select f.id, f.name, (select jsonb_build_object('versionId', v.id, 'remoteId', v.remote_id, 'content', v.content) from chat_form_version v
               where v.form_id = f.id and v.remote_id is not null order by v.number desc limit 1) as live
             from chat_form f where f.business_id = $1 and f.removed_at is null order by f.name`,
          [businessId],
        ),
        this.pool.query(
          `select distinct on (t.id) t.id, t.name, v.html, v.text from email_template t join email_template_version v on v.template_id = t.id
           where t.business_id = $1 and t.removed_at is null order by t.id, v.number desc`,
          [businessId],
        ),
        this.pool.query(
          'select counts_links, counts_opens, text_countries, country, locale from business where id = $1',
          [businessId],
        ),
      ]);
      const catalogue: Catalogue = {
        text: null,
        textCountries: business.rows[0]?.text_countries ?? homeCountries(business.rows[0]?.country ?? ''),
        email: null,
        chat: null,
        directory: null,
        locale: business.rows[0]?.locale ?? 'en-GB',
        colleagues: people.rows,
        tabs: tabs.rows,
        tags: tags.rows,
        outcomes: outcomes.rows.map(({ name }) => name),
        sources: sources.rows,
        stages: stages.rows,
        lists: lists.rows,
        segments: segments.rows,
        chatTemplates: chatTemplates.rows,
        chatForms: chatForms.rows,
        emailTemplates: emailTemplates.rows.sort((a, b) => a.name.localeCompare(b.name)),
        counting: {
          links: business.rows[0]?.counts_links ? `${this.publicUrl}/l/` : null,
          opens: business.rows[0]?.counts_opens ?? false,
        },
      };
      const accounts = new Map<string, SendingAccount>();
      let directoryAccount: AccountOfService | null = null;
      const services = new Map<string, AccountOfService>();
      const databases = new Map<string, KnownDatabase>();
      const places = new Map<string, KnownPlace>();
      const offered: CatalogueService[] = [];
      for (const row of connections.rows) {
        const settings = row.settings as ConnectionSettings;
        const secret = row.secret === null ? null : this.secrets.open(row.secret);
        if (row.kind === 'text_carrier' || row.kind === 'chat_network') {
          accounts.set(
            row.id,
            settings.smpp
              ? { businessId, kind: 'smpp', ...smppAccount(row.id, settings, secret) }
              : {
                  businessId,
                  kind: row.kind === 'text_carrier' ? 'text' : 'chat',
                  service: describedAccount({ ...row, settings, secret })!,
                  reportTo: `${this.publicUrl}/reports/${row.report_key}`,
                },
          );
          const from = settings.sender ?? '';
          if (row.kind === 'chat_network') catalogue.chat ??= { connectionId: row.id, from };
          else
            catalogue.text ??= {
              connectionId: row.id,
              from,
              senders: [from, ...(settings.senders ?? [])].filter(Boolean),
            };
        } else if (row.kind === 'mail_server') {
          accounts.set(row.id, {
            businessId,
            kind: 'email',
            address: settings.address,
            user: settings.user ?? null,
            password: secret,
            authority: settings.authority,
            ...(settings.access
              ? { access: { connectionId: row.id, ask: accessOf({ ...row, settings, secret })!.ask } }
              : {}),
            ...(settings.signing
              ? {
                  signing: {
                    domain: settings.signing.domain,
                    selector: settings.signing.selector,
                    key: this.secrets.open(settings.signing.sealed),
                  },
                }
              : {}),
            ...(settings.bounces && this.mailDomain !== null
              ? { returnPath: (key: string) => bounceAddress(key, this.mailDomain!) }
              : {}),
            ...(settings.replies && this.mailDomain !== null
              ? { replyTo: (key: string) => replyAddress(key, this.mailDomain!) }
              : {}),
          });
          catalogue.email ??= {
            connectionId: row.id,
            fromName: settings.fromName ?? '',
            fromAddress: settings.fromAddress ?? '',
          };
        } else if (row.kind === 'company_directory' && !directoryAccount) {
          directoryAccount = describedAccount({ ...row, settings, secret });
          catalogue.directory = { name: row.name };
        } else if (isDescribed(row.kind)) {
          const service = describedAccount({ ...row, settings, secret });
          if (service) services.set(row.id, service);
          if (service && row.kind === 'service') offered.push(offeredBy(row.id, row.name, service.description));
        } else if (row.kind === 'database' && settings.lookUps?.length) {
          const { address, user = '', authority, lookUps } = settings;
          databases.set(row.id, { account: { address, user, password: secret ?? '', authority }, lookUps });
          offered.push(askedOf(row.id, row.name, lookUps));
        } else if (row.kind === 'file_place' && settings.tables?.length) {
          const { address, user = '', hostKey, authority, tables } = settings;
          places.set(row.id, { account: { address, user, password: secret ?? '', hostKey, authority }, tables });
          offered.push(writtenAt(row.id, row.name, tables));
        }
      }
      return {
        catalogue: { ...catalogue, services: offered },
        accounts,
        directoryAccount,
        services,
        databases,
        places,
      };
    });
  }
}
