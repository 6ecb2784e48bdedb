import { randomBytes } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Field } from '../core/fields/field.ts';
import { EMPTY_CARD, guessCard, type LeadCard } from '../core/source/lead-card.ts';
import { type ISource, Source } from '../db/entities/source.ts';
import type { AdFormEntry } from '../gateways/ad-platform.ts';
import { sourceKinds } from '../sources/registry.ts';
import { audit, demand, notHere, Refusal, type Use } from './actor.ts';
import { newSigningSecret, openAccount } from './connections.ts';

export interface SourceView {
  id: string;
  kind: string;
  kindLabel: string;
  name: string;
  state: 'waiting' | 'live' | 'paused';
  address: string;
  signed: boolean;
  settings: Record<string, unknown>;
  card: LeadCard;
  cardConfirmed: boolean;
  arrivals: number;
  lastArrivalAt: string | null;
  usedBy: { id: string; name: string }[];
}

/** One item caught, for choosing a sample. */
export interface SampleView {
  arrivalId: string;
  receivedAt: string;
  state: 'read' | 'refused' | 'held';
  problem: string | null;
  fields: Field[];
}

const newKey = () => randomBytes(24).toString('base64url');

export async function listSources(use: Use): Promise<SourceView[]> {
  const found = await use.em.find(Source, { business: use.actor.businessId }, { orderBy: { createdAt: 'asc' } });
  return Promise.all(found.map((source) => sourceView(use, source)));
}

async function findSource(use: Use, id: string): Promise<ISource> {
  const found = z.uuid().safeParse(id).success
    ? await use.em.findOne(Source, { id, business: use.actor.businessId })
    : null;
  if (!found) throw notHere('source');
  return found;
}

export const getSource = async (use: Use, id: string): Promise<SourceView> =>
  sourceView(use, await findSource(use, id));

async function sourceView(use: Use, source: ISource): Promise<SourceView> {
  const kind = sourceKinds.get(source.kind)!;
  const settings = kind.settings.safeParse(source.settings);
  const [{ count, last }] = (await use.em.execute(
    'select count(*)::int as count, max(received_at) as last from arrival where source_id = ?',
    [source.id],
  )) as [{ count: number; last: Date | null }];
  const usedBy = (await use.em.execute(
    `select id, name from workflow where business_id = ? and draft -> 'sources' @> to_jsonb(?::text) order by name`,
    [use.actor.businessId, source.id],
  )) as { id: string; name: string }[];
  return {
    id: source.id,
    kind: source.kind,
    kindLabel: kind.label,
    name: source.name,
    state: source.state,
    address: `${use.runtime.settings.publicUrl}/in/${source.key}`,
    signed: settings.success && kind.mustBeSigned(settings.data),
    settings: source.settings,
    card: source.card,
    cardConfirmed: source.cardConfirmed,
    arrivals: count,
    lastArrivalAt: last ? new Date(last).toISOString() : null,
    usedBy,
  };
}

export const AddWebhook = z.object({
  kind: z.literal('webhook'),
  name: z.string().trim().min(1, 'Give the source a name').max(100),
  signed: z.boolean(),
});
export const AddAdForm = z.object({
  kind: z.literal('ad-form'),
  connectionId: z.uuid('Choose a connection'),
  formId: z.string().min(1, 'Choose a form'),
});
export const AddSource = z.discriminatedUnion('kind', [AddWebhook, AddAdForm]);

/** Makes a source and has it listen; it stays in waiting until its lead card is confirmed. */
export async function addSource(use: Use, input: z.infer<typeof AddSource>): Promise<SourceView> {
  demand(use.actor, 'coordinator');
  const secret = newSigningSecret();
  const base = {
    id: uuidv7(),
    business: use.actor.businessId,
    key: newKey(),
    card: EMPTY_CARD,
    cardConfirmed: false,
    secret: use.runtime.secrets.seal(secret),
    state: 'waiting' as const,
    createdAt: new Date(),
  };
  let made: ISource;
  if (input.kind === 'webhook')
    made = use.em.create(Source, { ...base, kind: 'webhook', name: input.name, settings: { signed: input.signed } });
  else {
    const account = await openAccount(use, input.connectionId, 'ad_platform');
    const form = (await listForms(use, input.connectionId)).find((one) => one.id === input.formId);
    if (!form)
      throw new Refusal(404, 'no-such-form', 'This form is no longer there on the ad platform. Choose another.');
    const subscribed = await use.runtime.adPlatform.subscribe(
      account,
      form.id,
      `${use.runtime.settings.publicUrl}/in/${base.key}`,
      secret,
    );
    if (!subscribed.ok) throw new Refusal(502, 'ad-platform', `${subscribed.problem} Nothing was set up; try again.`);
    made = use.em.create(Source, {
      ...base,
      kind: 'ad-form',
      name: `${form.name} form`,
      settings: {
        connectionId: input.connectionId,
        formId: form.id,
        formName: form.name,
        subscriptionId: subscribed.value,
      },
    });
  }
  audit(use.em, use.actor, 'source.add', made.id, { kind: made.kind, name: made.name });
  await use.em.flush();
  return sourceView(use, made);
}

export async function listForms(use: Use, connectionId: string): Promise<AdFormEntry[]> {
  const account = await openAccount(use, connectionId, 'ad_platform');
  const forms = await use.runtime.adPlatform.listForms(account);
  if (!forms.ok) throw new Refusal(502, 'ad-platform', forms.problem);
  return forms.value;
}

/** The last 20 items caught, newest first. */
export async function listSamples(use: Use, sourceId: string): Promise<SampleView[]> {
  const source = await findSource(use, sourceId);
  const rows = (await use.em.execute(
    'select id, received_at, state, problem, fields from arrival where source_id = ? order by received_at desc limit 20',
    [source.id],
  )) as { id: string; received_at: Date; state: SampleView['state']; problem: string | null; fields: Field[] }[];
  return rows.map((row) => ({
    arrivalId: row.id,
    receivedAt: new Date(row.received_at).toISOString(),
    state: row.state,
    problem: row.problem,
    fields: row.fields,
  }));
}

export const suggestCard = (use: Use, fields: Field[]): LeadCard => guessCard(fields, use.actor.country);

/** Confirms which field is which. The first time, the source goes live with it. */
export async function saveCard(use: Use, id: string, card: LeadCard): Promise<SourceView> {
  demand(use.actor, 'coordinator');
  const source = await findSource(use, id);
  if (!card.fields.email && !card.fields.phone)
    throw new Refusal(
      422,
      'no-way-to-reach',
      'Say which field is the email or the phone: without one of them nobody can be answered or recognised.',
    );
  source.card = card;
  if (!source.cardConfirmed) source.state = 'live';
  source.cardConfirmed = true;
  audit(use.em, use.actor, 'source.card', id, { card });
  await use.em.flush();
  use.runtime.directory.forget();
  return sourceView(use, source);
}

export async function pauseSource(use: Use, id: string, paused: boolean): Promise<SourceView> {
  demand(use.actor, 'coordinator');
  const source = await findSource(use, id);
  if (!source.cardConfirmed)
    throw new Refusal(409, 'no-card', 'Say first which field is which; then this source can go live.');
  source.state = paused ? 'paused' : 'live';
  audit(use.em, use.actor, paused ? 'source.pause' : 'source.resume', id);
  await use.em.flush();
  use.runtime.directory.forget();
  return sourceView(use, source);
}

export async function renameSource(use: Use, id: string, name: string): Promise<SourceView> {
  demand(use.actor, 'coordinator');
  const source = await findSource(use, id);
  source.name = name.trim().slice(0, 100) || source.name;
  await use.em.flush();
  use.runtime.directory.forget();
  return sourceView(use, source);
}

/** The signing secret of a webhook, to be copied into the sending application. Looking is audited. */
export async function showSourceSecret(use: Use, id: string): Promise<string> {
  demand(use.actor, 'coordinator');
  const source = await findSource(use, id);
  audit(use.em, use.actor, 'source.show_secret', id);
  await use.em.flush();
  return source.secret ? use.runtime.secrets.open(source.secret) : '';
}
