import { setTimeout as sleep } from 'node:timers/promises';
import { homeCountries } from '../../core/message/may-text.ts';
import { Business, Membership } from '../../db/entities/business.ts';
import { Connection, type ConnectionKind, type IConnection } from '../../db/entities/connection.ts';
import { Source } from '../../db/entities/source.ts';
import { removeFromRecord } from '../../engine/erasing/from-record.ts';
import type { Runtime } from '../../runtime.ts';
import type { PracticeDesk } from '../../settings.ts';
import { sourceModules } from '../../sources/registry.ts';
import { askForPractice } from '../../watched.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { pauseWorkflow } from '../workflows/live.ts';
import { endSource, refuseWhileUsed, removeAccounts } from '../workflows/removal.ts';
import { ConnectionInput } from './connection-settings.ts';
import { addConnection } from './connections.ts';

/*
 * The practice world of a business that has nothing connected yet: accounts at the practice desk, invented people and phones. Nothing of it is real,
 * and all of it goes in one step.
 */

/** The phone at the practice desk that is the coordinator's own, in a range set aside for fiction (Ofcom). */
export const PRACTICE_PHONE = '+447700900100';
const PRACTICE_COUNTRY = 'GB';
const PRACTICE_NUMBER = '+447700900150';
/** People who are removed by one round of statements. */
const AT_ONCE = 200;
/** How long a desk may take to come up, in milliseconds. */
const COMES_UP_MS = 20_000;

/** Kinds there is a practice account of. */
type PracticeKind = Exclude<
  ConnectionKind,
  'service' | 'database' | 'mail_account' | 'file_place' | 'calendar_account'
>;
const PATHS: Record<Exclude<PracticeKind, 'mail_server'>, string> = {
  text_carrier: 'carrier',
  ad_platform: 'ads',
  funnel_host: 'funnels',
  shop: 'shop',
  booking_calendar: 'calendar',
  company_directory: 'directory',
  chat_network: 'chat',
};
const NAMES: Record<PracticeKind, string> = {
  text_carrier: 'Practice carrier',
  mail_server: 'Practice mail',
  ad_platform: 'Practice ad account',
  funnel_host: 'Practice funnel host',
  shop: 'Practice shop',
  booking_calendar: 'Practice calendar',
  company_directory: 'Practice company directory',
  chat_network: 'Practice chat network',
};

const isPractised = (kind: ConnectionKind): kind is PracticeKind => Object.hasOwn(NAMES, kind);

/** An account of each kind at the desk, as it is connected. */
export const practiceAccounts = (
  desk: PracticeDesk,
  own: { sender: string; fromName: string; fromAddress: string; number: string },
): ConnectionInput[] =>
  (Object.keys(NAMES) as PracticeKind[]).map((kind) =>
    ConnectionInput.parse({
      kind,
      name: NAMES[kind],
      ...(kind === 'mail_server'
        ? { address: desk.smtp, fromName: own.fromName, fromAddress: own.fromAddress, bounces: true, replies: true }
        : { address: `${desk.url}/${PATHS[kind]}`, secret: desk.token }),
      ...(kind === 'text_carrier' ? { sender: own.sender } : {}),
      ...(kind === 'chat_network' ? { sender: own.number } : {}),
    }),
  );

const answers = async (url: string): Promise<boolean> => {
  try {
    return (await fetch(`${url}/api/state`, { signal: AbortSignal.timeout(2000) })).ok;
  } catch {
    return false;
  }
};

/** The desk of this copy, asked for where it is not running yet. */
async function deskOf({ runtime }: Use): Promise<PracticeDesk> {
  const { practice } = runtime.settings;
  if (!practice)
    throw new Refusal(
      409,
      'no-practice-desk',
      'This copy was started without a practice desk. Start it with npm start, or connect your own accounts under Connections.',
    );
  const end = Date.now() + COMES_UP_MS;
  if (!(await answers(practice.url))) askForPractice(true);
  while (!(await answers(practice.url))) {
    if (Date.now() > end)
      throw new Refusal(
        502,
        'practice-not-up',
        'The practice desk has not come up. Try again in a moment; if it stays so, look into the console Pine Bell was started in.',
      );
    await sleep(200);
  }
  return practice;
}

/** At most 11 letters and digits of the business's name, as carriers show them; "Practice" when it has none. */
const senderOf = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9 ]/g, '')
    .trim()
    .slice(0, 11)
    .trim() || 'Practice';

/** Connects an account of every kind at the practice desk. A second time it does nothing. */
export async function switchOnPractice(use: Use): Promise<{ on: true }> {
  demand(use.actor, 'manage');
  const desk = await deskOf(use);
  // Taken first, so that a colleague who presses at the same moment does not make a second one.
  const taken = await use.write(async (tx) => {
    await tx.db.query('select from business where id = $1 for update', [tx.actor.businessId]);
    const business = await tx.em.findOneOrFail(Business, { id: tx.actor.businessId });
    // A colleague may be switching it on this very moment; one that was broken off is finished by whoever comes later.
    if (business.practice)
      return tx.runtime.now() - Date.parse(business.practice.since) < COMES_UP_MS ? 'by another' : 'before';
    const may = business.textCountries ?? homeCountries(business.country);
    const countries = may.includes(PRACTICE_COUNTRY) ? [] : [PRACTICE_COUNTRY];
    business.textCountries = [...may, ...countries];
    business.practice = { since: new Date(tx.runtime.now()).toISOString(), countries };
    const mine = await tx.em.findOneOrFail(Membership, { business: business.id, person: tx.actor.personId });
    if (mine.testPhone === '') mine.testPhone = PRACTICE_PHONE;
    tx.note('practice.switch_on', tx.actor.businessId);
    tx.forget();
    return 'now';
  });
  if (taken === 'by another') return { on: true };
  const own = {
    sender: senderOf(use.actor.businessName),
    fromName: use.actor.businessName.slice(0, 100),
    fromAddress: 'practice@business.example',
    number: PRACTICE_NUMBER,
  };
  const kinds = await use.db.query<{ kind: ConnectionKind }>(
    'select kind from connection where business_id = $1 and practice and removed_at is null',
    [use.actor.businessId],
  );
  const here = new Set(kinds.rows.map((row) => row.kind));
  const missing = practiceAccounts(desk, own).filter(({ kind }) => taken === 'now' || !here.has(kind));
  try {
    for (const account of missing) await addConnection(use, account, { practice: true });
    if (missing.length > 0) await pointAtDesk(use.runtime, desk, use.actor.businessId);
  } catch (error) {
    // Half a practice world is none: it is off again, to be tried once more.
    await use.write((tx) => removePractice(tx));
    throw error;
  }
  return { on: true };
}

/** Ports may have changed since the last start: accounts at the desk, and what was agreed with it, are pointed at where things are now. */
export async function alignPractice(runtime: Runtime): Promise<void> {
  const { practice } = runtime.settings;
  if (!practice) return;
  const { rows } = await runtime.pool.query<{ business_id: string }>(
    'select distinct business_id from connection where practice and removed_at is null',
  );
  for (const row of rows) await pointAtDesk(runtime, practice, row.business_id);
}

async function pointAtDesk(runtime: Runtime, desk: PracticeDesk, businessId: string): Promise<void> {
  const em = runtime.orm.em.fork();
  const connections = await em.find(Connection, { business: businessId, practice: true });
  for (const connection of connections) {
    const { kind } = connection;
    if (!isPractised(kind)) continue;
    connection.settings = {
      ...connection.settings,
      address: kind === 'mail_server' ? desk.smtp : `${desk.url}/${PATHS[kind]}`,
    };
    if (kind === 'mail_server') continue;
    connection.secret = runtime.secrets.seal(
      connection.name.endsWith('evenings') ? `${desk.token}-adults` : desk.token,
    );
    if (kind === 'text_carrier') await tellReportSecret(runtime, desk, connection);
    if (kind === 'chat_network') await tellChatAccount(runtime, desk, connection);
  }
  await em.flush();
  const sources = await em.find(Source, { business: businessId }, { populate: ['business'] });
  for (const source of sources) {
    const module = sourceModules.get(source.kind);
    const settings = source.settings as { connectionId?: string; address?: string };
    if (source.kind === 'content-feed' && settings.address?.endsWith('/feed/podcast.rss'))
      source.settings = { ...settings, address: `${desk.url}/feed/podcast.rss` };
    if (!module?.setup.repoint || !source.secret || !connections.some(({ id }) => id === settings.connectionId))
      continue;
    const business = source.business.unwrap() as { id: string; name: string };
    await module.setup.repoint(
      runtime.sourcePorts.of(business.id, business.name),
      module.definition.settings.parse(settings),
      {
        address: `${runtime.settings.publicUrl}/in/${source.key}`,
        secret: runtime.secrets.open(source.secret),
      },
    );
  }
  await em.flush();
  runtime.settingsCache.forget();
}

const tellReportSecret = (runtime: Runtime, desk: PracticeDesk, { reportSecret }: IConnection) =>
  post(`${desk.url}/api/report-secret`, { secret: runtime.secrets.open(reportSecret) });

const tellChatAccount = (runtime: Runtime, desk: PracticeDesk, connection: IConnection) =>
  post(`${desk.url}/api/chat-account`, {
    secret: runtime.secrets.open(connection.reportSecret),
    reportTo: `${runtime.settings.publicUrl}/reports/${connection.reportKey}`,
    number: connection.settings.sender ?? '',
  });

async function post(url: string, body: unknown): Promise<void> {
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`${url} answered ${answer.status}: ${await answer.text()}`);
}

/** The desk's address where the business has its practice world on; null where it has not. */
export const practiceUrlOf = ({ actor, runtime }: Pick<Use, 'actor' | 'runtime'>): string | null =>
  actor.practice ? (runtime.settings.practice?.url ?? null) : null;

export interface PracticeView {
  on: boolean;
  /** Whether this copy has a desk to switch on. */
  offered: boolean;
  url: string | null;
  phone: string;
  /** What would go with it. */
  people: number;
  sources: { id: string; name: string }[];
}

const OF_PRACTICE = `select s.id, s.name from source s join connection c on c.business_id = s.business_id and c.id::text = s.settings ->> 'connectionId'
  where s.business_id = $1 and c.practice`;
/** People who came by practice sources and by nothing else. */
const PRACTICE_PEOPLE = `select distinct a.lead_id as id from arrival a where a.business_id = $1 and a.source_id = any($2) and a.lead_id is not null
  and not exists (select from arrival b join source s on s.id = b.source_id where b.lead_id = a.lead_id and b.source_id <> all($2) and s.kind <> 'list')`;

export async function getPractice(use: Use): Promise<PracticeView> {
  const { db, actor, runtime } = use;
  const { rows } = await db.query<{ id: string; name: string }>(`${OF_PRACTICE} order by s.name`, [actor.businessId]);
  const people = await db.query(PRACTICE_PEOPLE, [actor.businessId, rows.map(({ id }) => id)]);
  return {
    on: actor.practice,
    offered: runtime.settings.practice !== null,
    url: practiceUrlOf(use),
    phone: PRACTICE_PHONE,
    people: people.rowCount ?? 0,
    sources: rows,
  };
}

/**
 * Takes the practice world away with everything it made: its accounts, the sources that listen there, and who came by nothing else. Workflows stay:
 * one that listened only there is paused. Refused, with its name, while something real still sends by one of its accounts.
 */
export async function removePractice(tx: Write): Promise<{ on: false }> {
  demand(tx.actor, 'manage');
  const { businessId, personId } = tx.actor;
  await tx.db.query('select from business where id = $1 for update', [businessId]);
  const business = await tx.em.findOneOrFail(Business, { id: businessId });
  if (!business.practice) return { on: false };
  const sources = (await tx.db.query<{ id: string }>(OF_PRACTICE, [businessId])).rows.map(({ id }) => id);
  const connections = await tx.em.find(Connection, { business: businessId, practice: true });
  for (const connection of connections)
    if (connection.settings.frontDoor)
      connection.settings = { ...connection.settings, frontDoor: { ...connection.settings.frontDoor, on: false } };
  await quietWorkflows(tx, sources);
  await tx.em.flush();
  // Before anything is taken away: a refusal is to cost nothing.
  await refuseWhileUsed(tx, connections);
  const people = (await tx.db.query<{ id: string }>(PRACTICE_PEOPLE, [businessId, sources])).rows.map(({ id }) => id);
  for (let i = 0; i < people.length; i += AT_ONCE)
    await removeFromRecord(tx.db, people.slice(i, i + AT_ONCE), businessId);
  const of = [businessId, sources];
  await tx.db.query('delete from needs_you where business_id = $1 and source_id = any($2)', of);
  await tx.db.query('delete from arrival where business_id = $1 and source_id = any($2) and lead_id is null', of);
  await tx.em.flush();
  for (const source of await tx.em.find(Source, { id: { $in: sources } })) await endSource(tx, source);
  // What was tried on oneself, and what still waits for an account that is no more.
  await tx.db.query(
    `delete from delivery where business_id = $1 and connection_id = any($2) and (audience = 'test' or state = 'sending')`,
    [businessId, connections.map(({ id }) => id)],
  );
  await tx.db.query('delete from push_device where business_id = $1 and practice', [businessId]);
  removeAccounts(tx, connections);
  const { countries } = business.practice;
  Object.assign(business, {
    practice: null,
    textCountries: business.textCountries?.filter((country) => !countries.includes(country)) ?? null,
  });
  const mine = await tx.em.find(Membership, { business: businessId, testPhone: PRACTICE_PHONE });
  for (const one of mine) one.testPhone = '';
  tx.note('practice.remove', businessId, { people: people.length, by: personId });
  await tx.em.flush();
  tx.after(() => askForPractice(false));
  tx.forget();
  tx.ring();
  return { on: false };
}

/** No workflow listens to practice sources any more, or names them in its draft. */
async function quietWorkflows(tx: Write, sources: readonly string[]): Promise<void> {
  if (sources.length === 0) return;
  const { rows } = await tx.db.query<{ id: string; only: boolean }>(
    `select w.id, not exists (select from listening l where l.workflow_id = w.id and l.source_id <> all($2)) as only
     from workflow w where w.business_id = $1 and w.state = 'live' and exists (select from listening l where l.workflow_id = w.id and l.source_id = any($2))`,
    [tx.actor.businessId, sources],
  );
  for (const { id, only } of rows) if (only) await pauseWorkflow(tx, id, true);
  await tx.em.flush();
  await tx.db.query('delete from listening where source_id = any($1)', [sources]);
  await tx.db.query(
    `update workflow set draft = jsonb_set(draft, '{sources}', (select coalesce(jsonb_agg(s), '[]') from jsonb_array_elements(draft -> 'sources') s
       where s #>> '{}' <> all($2::text[]))), revision = revision + 1, updated_at = now()
     where business_id = $1 and removed_at is null and draft -> 'sources' ?| $2::text[]`,
    [tx.actor.businessId, sources],
  );
}
