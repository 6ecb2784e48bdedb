import { randomBytes } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { AccessSettings } from '../../core/described/access.ts';
import { LONGEST_DESCRIPTION, readDescription } from '../../core/described/check.ts';
import { fill } from '../../core/described/fill.ts';
import { hiding } from '../../core/described/request.ts';
import { shippedFor } from '../../core/described/shipped/registry.ts';
import { isDescribed } from '../../core/described/works.ts';
import { readEmail } from '../../core/message/email-address.ts';
import { secretValues } from '../../db/described-account.ts';
import {
  CONNECTION_KINDS,
  Connection,
  type ConnectionKind,
  type ConnectionSettings,
  type IConnection,
} from '../../db/entities/connection.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { type TriedAccount, tryAccount } from './try-account.ts';

export const CONNECTION_LABELS: Record<ConnectionKind, string> = {
  text_carrier: 'Text carrier',
  mail_server: 'Mail server',
  ad_platform: 'Ad platform',
  funnel_host: 'Funnel host',
  shop: 'Shop',
  booking_calendar: 'Booking calendar',
  company_directory: 'Company directory',
  chat_network: 'Chat network',
  service: 'Another service',
  database: 'Database',
  mail_account: 'Mail account',
  file_place: 'Files elsewhere',
};

export const ConnectionInput = z.object({
  kind: z.enum(CONNECTION_KINDS),
  name: z.string().trim().min(1, 'Give the connection a name').max(100),
  /** Of a service the business describes itself, what its description says. */
  address: z.string().trim().max(300).default(''),
  sender: z.string().trim().max(100).default(''),
  /** Further senders of texts, with commas between them. */
  senders: z
    .string()
    .max(500)
    .default('')
    .transform((text) =>
      text
        .split(/[,;\n]/)
        .map((one) => one.trim())
        .filter(Boolean),
    ),
  fromName: z.string().trim().max(100).default(''),
  fromAddress: z.string().trim().max(254).default(''),
  user: z.string().trim().max(200).default(''),
  /** How access is allowed on the service's own page, at a mail server or mailbox; null for a user and password. */
  access: AccessSettings.nullable().default(null),
  bounces: z.boolean().default(false),
  replies: z.boolean().default(false),
  /** Empty keeps the one there is. */
  secret: z.string().max(500).default(''),
  /** How the service is called, where the business says so itself: as in core/described/description.ts. */
  description: z.unknown().optional(),
  /** What the description asks for, by name; of what is secret, empty keeps what there is. */
  values: z.record(z.string().max(40), z.string().max(8000)).default({}),
  /** Kept although it could not be tried just now. */
  untried: z.boolean().default(false),
});
export type ConnectionInput = z.infer<typeof ConnectionInput>;

/** A number (E.164), or the letters a carrier shows instead: at most 11 (3GPP TS 23.040 §9.1.2.5, from memory). */
const SENDER = /^(\+\d{7,15}|[A-Za-z0-9 ]{1,11})$/;

/** A connection as screens see it: the secret itself is never shown again. */
export interface ConnectionView {
  id: string;
  kind: ConnectionKind;
  name: string;
  settings: ConnectionSettings;
  hasSecret: boolean;
  /** Names of what is secret and filled in. */
  filled: string[];
  practice: boolean;
  reportAddress: string | null;
  seen: string;
}

/** What is set about a connection; the front door is kept on a page of its own. */
const settingsSeen = ({
  name,
  settings: { frontDoor: _, signing: __, authority: ___, ...settings },
  secret,
}: IConnection) => ({
  ...{ name, settings, secret },
});

/** What is secret and filled in, by name: of a service spoken to as it ships, the one key. */
const filledSecrets = (settings: ConnectionSettings, secret: string | null): Record<string, string> =>
  settings.description ? secretValues(secret) : secret === null ? {} : { key: secret };

/** What is kept on pages of its own, and stays whatever else is set. */
const keptApart = ({ frontDoor, signing, authority }: ConnectionSettings): Partial<ConnectionSettings> => ({
  ...(frontDoor ? { frontDoor } : {}),
  ...(signing ? { signing } : {}),
  ...(authority ? { authority } : {}),
});

/** Settings without what is sealed in them, and what has a page of its own. */
const openSettings = ({ signing: _, authority: __, ...settings }: ConnectionSettings): ConnectionSettings => settings;

export const viewOf = (use: Use, c: IConnection): ConnectionView => ({
  id: c.id,
  kind: c.kind,
  name: c.name,
  settings: openSettings(c.settings),
  hasSecret: c.secret !== null,
  filled: Object.keys(filledSecrets(c.settings, secretOf(use, c))),
  practice: c.practice,
  seen: seenAs(settingsSeen(c)),
  reportAddress: (c.settings.description ?? (isDescribed(c.kind) ? shippedFor(c.kind) : null))?.hears
    ? `${use.runtime.settings.publicUrl}/reports/${c.reportKey}`
    : null,
});

export async function listConnections(use: Use): Promise<ConnectionView[]> {
  const found = await use.em.find(
    Connection,
    { business: use.actor.businessId },
    { orderBy: { kind: 'asc', createdAt: 'asc' } },
  );
  return found.map((connection) => viewOf(use, connection));
}

/** Steps that send or look up by an account of each kind. */
export const SENDING_STEPS: Partial<Record<ConnectionKind, string[]>> = {
  text_carrier: ['text'],
  mail_server: ['email', 'mailing'],
  chat_network: ['chat', 'chat-template'],
  company_directory: ['company'],
};

/** What hangs on a connection, and how it does. */
export interface ConnectionUse {
  sources: { id: string; name: string }[];
  /** Live workflows with a step that sends or looks up by an account of its kind. */
  workflows: number;
  /** When its sources were last fetched from well, and since when one of them cannot be; null for never, and where nothing is fetched. */
  lastOkAt: string | null;
  troubleSince: string | null;
  /** When it took a message last, how many wait for it for a minute and longer, and since when; as far as the business's last messages tell. */
  lastTakenAt: string | null;
  waiting: number;
  waitingSince: string | null;
  /** When something came in last by its sources. */
  lastHeardAt: string | null;
}

/** So many of the last messages are looked at: enough to know how each account does, however many there are in all. */
const LAST_MESSAGES = 3000;

/** By the id of the connection. */
export async function connectionUses(use: Use): Promise<Map<string, ConnectionUse>> {
  const { rows } = await use.db.query<{
    id: string;
    kind: ConnectionKind;
    sources: ConnectionUse['sources'];
    last_ok: Date | null;
    trouble: Date | null;
    heard: Date | null;
    named_by: number;
  }>(
    `select c.id, c.kind, coalesce(jsonb_agg(jsonb_build_object('id', s.id, 'name', s.name) order by s.name) filter (where s.id is not null), '[]') as sources,
       max(p.last_ok_at) as last_ok, min(p.trouble_since) as trouble,
       max((select a.received_at from arrival a where a.source_id = s.id order by a.received_at desc limit 1)) as heard,
       -- A described service is named by its steps; of every other kind there is one that all steps use.
       case when c.kind = 'service' then (select count(*)::int from workflow w join workflow_version v on v.id = w.live_version_id
         where w.business_id = c.business_id and w.state = 'live' and v.definition::text like '%' || c.id || '%') else 0 end as named_by
     from connection c left join source s on s.business_id = c.business_id and s.removed_at is null and s.settings ->> 'connectionId' = c.id::text
     left join pull p on p.source_id = s.id where c.business_id = $1 and c.removed_at is null group by c.id`,
    [use.actor.businessId],
  );
  const live = await use.db.query<{ kind: string; n: number }>(
    `select step.kind, count(distinct w.id)::int as n from workflow w join workflow_version v on v.id = w.live_version_id,
       lateral (select distinct k #>> '{}' as kind from jsonb_path_query(v.definition, '$.moments[*].**.kind') k) step
     where w.business_id = $1 and w.state = 'live' group by step.kind`,
    [use.actor.businessId],
  );
  const taken = await use.db.query<{ id: string; taken: Date | null; waiting: number; since: Date | null }>(
    `select connection_id as id, max(accepted_at) as taken, count(*) filter (where late)::int as waiting, min(created_at) filter (where late) as since
     from (select connection_id, accepted_at, created_at, state = 'sending' and due_at is null and created_at < now() - interval '1 minute' as late
       from delivery where business_id = $1 and connection_id is not null order by created_at desc limit ${LAST_MESSAGES}) d group by connection_id`,
    [use.actor.businessId],
  );
  const messages = new Map(taken.rows.map((row) => [row.id, row]));
  const sends = (kind: ConnectionKind) =>
    Math.max(0, ...live.rows.filter((row) => SENDING_STEPS[kind]?.includes(row.kind)).map((row) => row.n));
  return new Map(
    rows.map(({ id, kind, sources, last_ok, trouble, heard, named_by }) => [
      id,
      {
        sources,
        workflows: kind === 'service' ? named_by : sends(kind),
        lastOkAt: last_ok?.toISOString() ?? null,
        troubleSince: trouble?.toISOString() ?? null,
        lastTakenAt: messages.get(id)?.taken?.toISOString() ?? null,
        waiting: messages.get(id)?.waiting ?? 0,
        waitingSince: messages.get(id)?.since?.toISOString() ?? null,
        lastHeardAt: heard?.toISOString() ?? null,
      },
    ]),
  );
}

const newKey = () => randomBytes(24).toString('base64url');
export const newSigningSecret = () => `whsec_${randomBytes(32).toString('base64')}`;

/** What a description says and what was filled in for it. `before` holds what was secret and filled in earlier. */
function describedSettings(
  input: ConnectionInput,
  before: Record<string, string>,
): { settings: ConnectionSettings; secret: string | null } {
  if (!isDescribed(input.kind)) throw new Refusal(422, 'description', 'Services of this kind are not described yet.');
  if (JSON.stringify(input.description).length > LONGEST_DESCRIPTION)
    throw new Refusal(
      422,
      'description',
      'The description is longer than anybody needs: 200,000 characters are taken.',
    );
  const read = readDescription(input.description, input.kind);
  if (!read.ok) throw new Refusal(422, 'description', read.problems.slice(0, 5).join(' '));
  const { description } = read;
  const secrets: Record<string, string> = {};
  const values: Record<string, string> = {};
  for (const { key, label, secret, needed } of description.asks) {
    const typed = (Object.hasOwn(input.values, key) ? input.values[key]! : '').trim();
    const value = secret && typed === '' && Object.hasOwn(before, key) ? before[key]! : typed;
    if (needed && value === '') throw new Refusal(422, 'value', `Fill in “${label || key}”.`);
    if (value !== '') (secret ? secrets : values)[key] = value;
  }
  const address = fill(description.address, { given: {}, account: { ...values, ...secrets } });
  const settings: ConnectionSettings = {
    address: address.ok ? hiding(Object.values(secrets))(address.text) : '',
    description,
    values,
  };
  return { settings, secret: Object.keys(secrets).length > 0 ? JSON.stringify(secrets) : null };
}

/** Settings as they are kept, with what is secret in them apart; null for the key that is there already. */
function readInput(
  input: ConnectionInput,
  before: string | null,
  /** What was secret and filled in, by name. */
  secrets: Record<string, string>,
): { settings: ConnectionSettings; secret: string | null } {
  if (input.description === undefined || input.description === null) {
    if (input.kind === 'service')
      throw new Refusal(
        422,
        'description',
        'Say how the service is called: take a description from a file, or make one.',
      );
    if (input.address === '') throw new Refusal(422, 'address', 'The address is missing.');
    return { settings: settingsOf(input), secret: input.secret || before };
  }
  const { settings, secret } = describedSettings(input, secrets);
  // Whom messages come from is checked as for any other.
  const own =
    input.kind === 'text_carrier' || input.kind === 'chat_network'
      ? settingsOf({ ...input, address: settings.address })
      : {};
  return { settings: { ...own, ...settings }, secret };
}

/** How addresses of each kind begin, and what is said of others. */
const WEB = [['http:', 'https:'], 'Write the address as a web address, beginning with https://.'] as const;
const SCHEMES: Partial<Record<ConnectionKind, readonly [readonly string[], string]>> = {
  mail_server: [['smtp:', 'smtps:'], 'Write the address as smtp://name:port or smtps://name:port.'],
  mail_account: [['imaps:', 'imap:'], 'Write the address as imaps://name:port or imap://name:port.'],
  database: [
    ['postgres:', 'postgresql:'],
    'Write the address as postgres://name:port/database, without user and password.',
  ],
};

/** How access is allowed, where it is; both its addresses lead somewhere. */
function accessSettings({ access, user }: ConnectionInput): { access?: AccessSettings } {
  if (!access) return {};
  if (user === '') throw new Refusal(422, 'user', 'Say the user name access is allowed for, mostly the email address.');
  for (const address of [access.authorizeAddress, access.tokenAddress])
    if (!/^https?:\/\//i.test(address) || !URL.canParse(address))
      throw new Refusal(
        422,
        'address',
        'Write both addresses of the service that allows access as web addresses, beginning with https://.',
      );
  return { access };
}

function settingsOf(input: ConnectionInput): ConnectionSettings {
  const [schemes, written] = SCHEMES[input.kind] ?? WEB;
  let url: URL | null = null;
  try {
    url = new URL(input.address);
  } catch {
    /* told below */
  }
  if (!url || !schemes.includes(url.protocol)) throw new Refusal(422, 'address', written);
  if (input.kind === 'text_carrier') {
    if (![input.sender, ...input.senders].every((one) => SENDER.test(one)))
      throw new Refusal(
        422,
        'sender',
        'The sender of texts is a number like +447700900000, or a name of at most 11 letters and digits.',
      );
    return { address: input.address, sender: input.sender, senders: input.senders };
  }
  if (input.kind === 'chat_network') {
    if (!/^\+\d{7,15}$/.test(input.sender))
      throw new Refusal(422, 'sender', 'Your number in chat is written like +447700900000.');
    return { address: input.address, sender: input.sender };
  }
  if (input.kind === 'mail_server') {
    if (!readEmail(input.fromAddress).ok)
      throw new Refusal(422, 'from', 'The address emails come from is not an email address.');
    return {
      address: input.address,
      fromName: input.fromName,
      fromAddress: input.fromAddress,
      ...(input.user ? { user: input.user } : {}),
      ...accessSettings(input),
      bounces: input.bounces,
      replies: input.replies,
    };
  }
  if (input.kind === 'mail_account') {
    if (url.username !== '' || url.password !== '')
      throw new Refusal(422, 'address', 'Write the address without user and password: they have fields of their own.');
    if (input.user === '') throw new Refusal(422, 'user', 'Say the user name of the mailbox, often its email address.');
    return { address: input.address, user: input.user, ...accessSettings(input) };
  }
  if (input.kind === 'database') {
    // What stands in an address is shown; a password never is.
    if (url.username !== '' || url.password !== '') throw new Refusal(422, 'address', SCHEMES.database![1]);
    if (input.user === '') throw new Refusal(422, 'user', 'Say the name of the database user.');
    return { address: input.address, user: input.user };
  }
  if (input.kind === 'file_place') {
    if (url.username !== '' || url.password !== '')
      throw new Refusal(422, 'address', 'Write the address without user and password: they have fields of their own.');
    return { address: input.address, ...(input.user ? { user: input.user } : {}) };
  }
  return { address: input.address };
}

/** What was found by trying, or null where it was agreed to leave that for later. A key that is not accepted is never kept. */
async function tried(use: Use, account: TriedAccount, untried: boolean): Promise<string | null> {
  try {
    return await tryAccount(use, account);
  } catch (error) {
    if (untried && error instanceof Refusal && error.code === 'not-tried') return null;
    throw error;
  }
}

/** A connection with what was found there. */
export interface Connected extends ConnectionView {
  found: string | null;
}

export async function addConnection(use: Use, input: ConnectionInput, { practice = false } = {}): Promise<Connected> {
  demand(use.actor, 'keys');
  const { secrets } = use.runtime;
  const { kind, name } = input;
  const { settings, secret } = readInput(input, null, {});
  const found = await tried(use, { kind, name, settings, secret }, input.untried);
  return use.write(async (tx) => {
    const made = tx.em.create(Connection, {
      id: uuidv7(),
      business: tx.actor.businessId,
      kind: input.kind,
      name: input.name,
      settings,
      secret: secret === null ? null : secrets.seal(secret),
      reportKey: newKey(),
      reportSecret: secrets.seal(newSigningSecret()),
      practice,
      createdAt: new Date(),
    });
    tx.note('connection.add', made.id, { kind: made.kind, name: made.name });
    tx.forget();
    return { ...viewOf(tx, made), found };
  });
}

async function findConnection(use: Use, id: string): Promise<IConnection> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  return found;
}

const secretOf = (use: Use, connection: IConnection): string | null =>
  connection.secret ? use.runtime.secrets.open(connection.secret) : null;

/** Of what is set about an account, what a note can say. */
const shownSettings = (settings: object): Record<string, string | number | boolean> =>
  Object.fromEntries(
    Object.entries(settings as Record<string, unknown>).flatMap(([key, value]) =>
      typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? [[key, value]] : [],
    ),
  );

export async function changeConnection(use: Use, id: string, input: ConnectionInput): Promise<Connected> {
  demand(use.actor, 'keys');
  const found = await findConnection(use, id);
  const { kind } = found;
  const old = secretOf(use, found);
  // A password is for the mail server, a client secret for whoever gives tokens: neither is sent to the other.
  const same = Boolean(found.settings.access) === Boolean(input.access);
  const { settings, secret } = readInput({ ...input, kind }, same ? old : null, filledSecrets(found.settings, old));
  const what = await tried(
    use,
    { id, kind, name: input.name, settings: { ...keptApart(found.settings), ...settings }, secret },
    input.untried,
  );
  return use.write(async (tx) => {
    await tx.db.query('select from connection where id = $1 for update', [id]);
    const connection = await findConnection(tx, id);
    refuseUnseen(tx, 'connection', settingsSeen(connection));
    const before = { name: connection.name, ...shownSettings(connection.settings) };
    Object.assign(connection, {
      name: input.name,
      // These may have been changed while the account was tried.
      settings: { ...settings, ...keptApart(connection.settings) },
    });
    if (secret !== old) connection.secret = secret === null ? null : tx.runtime.secrets.seal(secret);
    tx.note('connection.change', id, {
      secretChanged: secret !== old,
      before: { ...before, key: '' },
      // The key itself is told nowhere.
      after: { name: input.name, ...shownSettings(settings), key: secret === old ? '' : 'another' },
    });
    tx.forget();
    return { ...viewOf(tx, connection), found: what };
  });
}

/** Tries a connection as it stands. */
export async function tryConnection(use: Use, id: string): Promise<{ found: string }> {
  demand(use.actor, 'keys');
  const connection = await findConnection(use, id);
  const { kind, name, settings } = connection;
  return { found: await tryAccount(use, { id, kind, name, settings, secret: secretOf(use, connection) }) };
}

/** The secret that signs the carrier's reports, to be copied to the carrier once. Looking is audited. */
export async function showReportSecret(tx: Write, id: string): Promise<string> {
  demand(tx.actor, 'keys');
  const found = await findConnection(tx, id);
  tx.note('connection.show_report_secret', id);
  await tx.em.flush();
  return tx.runtime.secrets.open(found.reportSecret);
}
