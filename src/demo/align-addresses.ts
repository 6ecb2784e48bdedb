import { Connection, type ConnectionKind } from '../db/entities/connection.ts';
import { Source } from '../db/entities/source.ts';
import type { Runtime } from '../runtime.ts';
import { sourceModules } from '../sources/registry.ts';

export interface PracticeAddresses {
  url: string;
  smtp: string;
  token: string;
}

export async function tellReportSecret(
  runtime: Runtime,
  practice: PracticeAddresses,
  connectionId: string,
): Promise<void> {
  const connection = await runtime.orm.em.fork().findOneOrFail(Connection, { id: connectionId });
  await post(`${practice.url}/api/report-secret`, { secret: runtime.secrets.open(connection.reportSecret) });
}

export async function tellChatAccount(
  runtime: Runtime,
  practice: PracticeAddresses,
  connectionId: string,
): Promise<void> {
  const connection = await runtime.orm.em.fork().findOneOrFail(Connection, { id: connectionId });
  await post(`${practice.url}/api/chat-account`, {
    secret: runtime.secrets.open(connection.reportSecret),
    reportTo: `${runtime.settings.publicUrl}/reports/${connection.reportKey}`,
    number: connection.settings.sender ?? '',
  });
}

async function post(url: string, body: unknown, token?: string): Promise<void> {
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...(token ? { authorization: `Bearer ${token}` } : {}) },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`${url} answered ${answer.status}: ${await answer.text()}`);
}

const PLACES: Record<ConnectionKind, string> = {
  text_carrier: 'carrier',
  mail_server: '',
  ad_platform: 'ads',
  funnel_host: 'funnels',
  shop: 'shop',
  booking_calendar: 'calendar',
  company_directory: 'directory',
  chat_network: 'chat',
};

/** Ports may have changed since the last start: connections and what was agreed with services are pointed at where things are now. */
export async function alignAddresses(runtime: Runtime, practice: PracticeAddresses): Promise<void> {
  const em = runtime.orm.em.fork();
  const connections = await em.find(Connection, { name: { $like: 'Practice %' } });
  for (const connection of connections) {
    const { kind } = connection;
    const address = kind === 'mail_server' ? practice.smtp : `${practice.url}/${PLACES[kind]}`;
    connection.settings = { ...connection.settings, address };
    if (kind === 'mail_server') continue;
    connection.secret = runtime.secrets.seal(
      connection.name.endsWith('evenings') ? `${practice.token}-adults` : practice.token,
    );
    if (kind === 'text_carrier') await tellReportSecret(runtime, practice, connection.id);
    if (kind === 'chat_network') await tellChatAccount(runtime, practice, connection.id);
  }
  await em.flush();
  for (const source of await em.find(Source, {}, { populate: ['business'] })) {
    const module = sourceModules.get(source.kind);
    const settings = source.settings as { connectionId?: string; address?: string };
    if (source.kind === 'content-feed' && settings.address?.endsWith('/feed/podcast.rss'))
      source.settings = { ...settings, address: `${practice.url}/feed/podcast.rss` };
    if (
      !module?.setup.repoint ||
      !source.secret ||
      !connections.some((connection) => connection.id === settings.connectionId)
    )
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
}
