import { randomBytes } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { shippedFor } from '../../core/described/shipped/registry.ts';
import { isDescribed, tellsTheConnection } from '../../core/described/works.ts';
import { secretValues } from '../../db/described-account.ts';
import {
  Connection,
  type ConnectionKind,
  type ConnectionSettings,
  type IConnection,
} from '../../db/entities/connection.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { type ConnectionInput, readInput } from './connection-settings.ts';
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
  calendar_account: 'Calendar account',
};

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
  settings: { frontDoor: _, signing: __, authority: ___, lookUps: ____, tables: _____, ...settings },
  secret,
}: IConnection) => ({
  ...{ name, settings, secret },
});

/** What is secret and filled in, by name: of a service spoken to as it ships, the one key. */
const filledSecrets = (settings: ConnectionSettings, secret: string | null): Record<string, string> =>
  settings.description ? secretValues(secret) : secret === null ? {} : { key: secret };

/** What is kept on pages of its own, and stays whatever else is set. */
const keptApart = ({
  frontDoor,
  signing,
  authority,
  lookUps,
  tables,
}: ConnectionSettings): Partial<ConnectionSettings> => ({
  ...(frontDoor ? { frontDoor } : {}),
  ...(signing ? { signing } : {}),
  ...(authority ? { authority } : {}),
  ...(lookUps ? { lookUps } : {}),
  ...(tables ? { tables } : {}),
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
  reportAddress:
    !c.settings.smpp &&
    tellsTheConnection(c.kind) &&
    (c.settings.description ?? (isDescribed(c.kind) ? shippedFor(c.kind) : null))?.hears
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

const newKey = () => randomBytes(24).toString('base64url');
export const newSigningSecret = () => `whsec_${randomBytes(32).toString('base64')}`;

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

/** What its secret is good for: a password, a key, an address. One that was filled in for something else is never shown there. */
function secretOpens(
  kind: ConnectionKind,
  { access, smpp, address, user }: Pick<ConnectionInput | ConnectionSettings, 'access' | 'smpp' | 'address' | 'user'>,
): string {
  if (access) return 'access';
  if (kind === 'text_carrier') return smpp ? 'smpp' : 'web';
  if (kind === 'calendar_account') return user ? 'account' : 'address';
  return kind === 'file_place' && /^sftp:/i.test(address) ? 'sftp' : 'password';
}

export async function changeConnection(use: Use, id: string, input: ConnectionInput): Promise<Connected> {
  demand(use.actor, 'keys');
  const found = await findConnection(use, id);
  const { kind } = found;
  const old = secretOf(use, found);
  // A password is for the mail server, a client secret for whoever gives tokens: neither is sent to the other.
  const same = secretOpens(kind, found.settings) === secretOpens(kind, input);
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
