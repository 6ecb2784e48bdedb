import { v7 as uuidv7 } from 'uuid';
import type { Actor, Use } from '../app/actor.ts';
import { addConnection } from '../app/connections.ts';
import { actorOf, hashPassword, setUp } from '../app/sign-in.ts';
import { addSource, saveCard } from '../app/sources.ts';
import { createWorkflow, putLive } from '../app/workflows.ts';
import { Membership, Person } from '../db/entities/business.ts';
import { Connection } from '../db/entities/connection.ts';
import { Source } from '../db/entities/source.ts';
import type { Runtime } from '../runtime.ts';
import { BUSINESS, COLLEAGUES, OONAS_PHONE, openDaySheet, trialLessonSheet } from './world.ts';

export interface PracticeAddresses {
  url: string;
  smtp: string;
  token: string;
}

export interface DemoMade {
  actor: Actor;
  trialSource: string;
  openDaySource: string;
  trialWorkflow: string;
  openDayWorkflow: string;
}

const surroundings = (runtime: Runtime, actor: Actor): Use => ({ runtime, em: runtime.orm.em.fork(), actor });

const card = {
  fields: { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' },
  consent: { kind: 'field' as const, key: 'consent', wordingKey: 'consent_wording' },
};

export async function buildDemo(runtime: Runtime, desk: PracticeAddresses): Promise<DemoMade> {
  const { cookie } = await setUp(runtime, BUSINESS);
  const actor = (await actorOf(runtime, cookie))!;
  const use = surroundings(runtime, actor);
  const mine = await use.em.findOneOrFail(Membership, { person: actor.personId });
  Object.assign(mine, { testEmail: BUSINESS.email, testPhone: OONAS_PHONE });
  const passwordHash = await hashPassword(BUSINESS.password);
  for (const colleague of COLLEAGUES) {
    const person = use.em.create(Person, { id: uuidv7(), ...colleague, passwordHash, createdAt: new Date() });
    use.em.create(Membership, {
      id: uuidv7(),
      business: actor.businessId,
      person,
      role: 'coordinator',
      testEmail: colleague.email,
    });
  }
  await use.em.flush();

  const blank = { sender: '', fromName: '', fromAddress: '', user: '', secret: '' };
  const carrier = await addConnection(use, {
    ...blank,
    kind: 'text_carrier',
    name: 'Practice carrier',
    address: `${desk.url}/carrier`,
    sender: 'Wrenfield',
    secret: desk.token,
  });
  await addConnection(use, {
    ...blank,
    kind: 'mail_server',
    name: 'Practice mail',
    address: desk.smtp,
    fromName: 'Oona at Wrenfield',
    fromAddress: 'hello@wrenfield.example',
  });
  const ads = await addConnection(use, {
    ...blank,
    kind: 'ad_platform',
    name: 'Practice ad account',
    address: `${desk.url}/ads`,
    secret: desk.token,
  });
  await tellReportSecret(runtime, desk, carrier.id);

  const trial = await addSource(use, { kind: 'ad-form', connectionId: ads.id, formId: 'form-trial-lesson' });
  await saveCard(use, trial.id, card);
  const openDay = await addSource(use, { kind: 'webhook', name: 'Open day sign-in', signed: false });
  await saveCard(use, openDay.id, {
    fields: { full_name: 'name', email: 'email', phone: 'contact_number' },
    consent: { kind: 'field', key: 'agrees_to_texts', wordingKey: null },
  });
  const colleagues = await use.em.find(Person, { email: COLLEAGUES[1]!.email });
  const trialWorkflow = await createWorkflow(use, {
    name: 'Trial lesson: first reply',
    folder: 'Autumn term',
    draft: trialLessonSheet([trial.id], colleagues[0]!.id),
  });
  const openDayWorkflow = await createWorkflow(use, {
    name: 'Open day follow-up',
    folder: 'Autumn term',
    draft: openDaySheet([openDay.id]),
  });
  await putLive(use, trialWorkflow.id);
  await putLive(use, openDayWorkflow.id);
  return {
    actor,
    trialSource: trial.id,
    openDaySource: openDay.id,
    trialWorkflow: trialWorkflow.id,
    openDayWorkflow: openDayWorkflow.id,
  };
}

async function tellReportSecret(runtime: Runtime, desk: PracticeAddresses, connectionId: string): Promise<void> {
  const connection = await runtime.orm.em.fork().findOneOrFail(Connection, { id: connectionId });
  await post(`${desk.url}/api/report-secret`, { secret: runtime.secrets.open(connection.reportSecret) });
}

async function post(url: string, body: unknown, token?: string): Promise<void> {
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...(token ? { authorization: `Bearer ${token}` } : {}) },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`${url} answered ${answer.status}: ${await answer.text()}`);
}

/** Ports may have changed since the last start: connections and subscriptions are pointed at where things are now. */
export async function alignAddresses(runtime: Runtime, desk: PracticeAddresses): Promise<void> {
  const em = runtime.orm.em.fork();
  const connections = await em.find(Connection, { name: { $like: 'Practice %' } });
  for (const connection of connections) {
    const address =
      connection.kind === 'mail_server'
        ? desk.smtp
        : connection.kind === 'text_carrier'
          ? `${desk.url}/carrier`
          : `${desk.url}/ads`;
    connection.settings = { ...connection.settings, address };
    if (connection.kind === 'mail_server') continue;
    connection.secret = runtime.secrets.seal(desk.token);
    if (connection.kind === 'text_carrier') await tellReportSecret(runtime, desk, connection.id);
  }
  await em.flush();
  const ads = new Set(connections.filter((connection) => connection.kind === 'ad_platform').map(({ id }) => id));
  for (const source of await em.find(Source, { kind: 'ad-form' })) {
    const { connectionId, formId } = source.settings as { connectionId: string; formId: string };
    if (!ads.has(connectionId) || !source.secret) continue;
    const url = `${runtime.settings.publicUrl}/in/${source.key}`;
    await post(
      `${desk.url}/ads/forms/${formId}/subscriptions`,
      { url, secret: runtime.secrets.open(source.secret) },
      desk.token,
    );
  }
}
