import { randomBytes } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Field } from '../../core/fields/field.ts';
import { readAs } from '../../core/read-as.ts';
import { cardProblem, EMPTY_CARD, guessCard, type LeadCard } from '../../core/source/lead-card.ts';
import { SAMPLE } from '../../core/source/sample.ts';
import type { SignedBy, SourceKind } from '../../core/source/source-kind.ts';
import { type IPull, type ISource, Pull, Source } from '../../db/entities/source.ts';
import { sourceModules } from '../../sources/registry.ts';
import type { AnySourceModule, ChoicePage } from '../../sources/source-module.ts';
import { newSigningSecret } from '../account/connections.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { fetchSoon } from './fetch-soon.ts';

export interface SourceView {
  id: string;
  kind: string;
  kindLabel: string;
  icon: string;
  brings: 'people' | 'news';
  name: string;
  state: 'waiting' | 'live' | 'paused';
  address: string;
  signedBy: SignedBy['way'];
  /** The user name its service proves itself by, where it does so by name and password. */
  signedAs: string | null;
  settings: Record<string, unknown>;
  mostPerMinute: number;
  card: LeadCard;
  cardConfirmed: boolean;
  /** It never listens, so it is neither live nor paused. */
  once: boolean;
  arrivals: number;
  lastArrivalAt: string | null;
  usedBy: { id: string; name: string }[];
  /** For sources that are fetched from. */
  pull: PullView | null;
}

export interface PullView {
  everyMinutes: number;
  nextAt: string;
  lastOkAt: string | null;
  troubleSince: string | null;
  problem: string | null;
  backlog: { total: number; done: number } | null;
  unfetched: { count: number; firstExpiresAt: string | null } | null;
}

/** A kind as the choice of kinds shows it. */
export interface KindView {
  kind: string;
  label: string;
  about: string;
  icon: string;
}

export const listKinds = (): KindView[] =>
  [...sourceModules.values()]
    .filter(({ definition }) => definition.comesBy !== 'inside')
    .map(({ definition: { kind, label, about, icon } }) => ({ kind, label, about, icon }));

/** At least 128 bits nobody can guess. A mail address may be lower-cased on its way, so its key is written in base 16. */
export const keyFor = ({ definition }: AnySourceModule) =>
  definition.comesBy === 'mail' ? randomBytes(16).toString('hex') : randomBytes(24).toString('base64url');
export const hookOf = (use: Use, key: string) => `${use.runtime.settings.publicUrl}/in/${key}`;

/** Where arrivals of a source go: a web address, a mail address, or the page people fill in. */
function addressOf(use: Use, comesBy: SourceKind['comesBy'], key: string): string {
  const { publicUrl, mailDomain } = use.runtime.settings;
  if (comesBy === 'mail') return `${key}@${mailDomain}`;
  if (comesBy === 'page') return `${publicUrl}/f/${key}`;
  if (comesBy === 'file') return `${publicUrl}/files/${key}`;
  return hookOf(use, key);
}

export async function listSources(use: Use): Promise<SourceView[]> {
  const found = await use.em.find(Source, { business: use.actor.businessId }, { orderBy: { createdAt: 'asc' } });
  return Promise.all(found.map((source) => sourceView(use, source)));
}

export async function findSource(use: Use, id: string): Promise<ISource> {
  const found = z.uuid().safeParse(id).success
    ? await use.em.findOne(Source, { id, business: use.actor.businessId })
    : null;
  if (!found) throw notHere('source');
  return found;
}

export const getSource = async (use: Use, id: string): Promise<SourceView> =>
  sourceView(use, await findSource(use, id));

export const moduleOf = (source: Pick<ISource, 'kind'>): AnySourceModule => sourceModules.get(source.kind)!;

export async function sourceView(use: Use, source: ISource): Promise<SourceView> {
  const { definition } = moduleOf(source);
  const settings = readAs(definition.settings, source.settings);
  const { rows } = await use.db.query<{ count: number; last: Date | null }>(
    'select arrivals_of($1) as count, (select max(received_at) from arrival where source_id = $1 and problem is distinct from $2) as last',
    [source.id, SAMPLE],
  );
  const { count, last } = rows[0]!;
  const usedBy = (await use.em.execute(
    `select id, name from workflow where business_id = ? and removed_at is null and draft -> 'sources' @> to_jsonb(?::text) order by name`,
    [use.actor.businessId, source.id],
  )) as { id: string; name: string }[];
  const pull = await use.em.findOne(Pull, { source: source.id }, { refresh: true });
  const { connectionId } = source.settings as { connectionId?: string };
  const hears =
    definition.describedAs && connectionId
      ? (await use.runtime.settingsCache.provisionsOf(use.actor.businessId)).services.get(connectionId)?.description
          .hears
      : undefined;
  return {
    id: source.id,
    kind: source.kind,
    kindLabel: definition.label,
    icon: definition.icon,
    brings: definition.brings,
    name: source.name,
    state: source.state,
    address: addressOf(use, definition.comesBy, source.key),
    signedBy: settings.success ? definition.signedBy(settings.data, hears).way : 'nobody',
    signedAs: hears?.signed.way === 'basic' ? hears.signed.user : null,
    settings: settings.success ? (settings.data as Record<string, unknown>) : source.settings,
    mostPerMinute: source.mostPerMinute,
    card: source.card,
    cardConfirmed: source.cardConfirmed,
    once: definition.once ?? false,
    arrivals: count,
    lastArrivalAt: last ? new Date(last).toISOString() : null,
    usedBy,
    pull: pull ? pullView(pull) : null,
  };
}

const pullView = (pull: IPull): PullView => ({
  everyMinutes: pull.everyMinutes,
  nextAt: pull.nextAt.toISOString(),
  lastOkAt: pull.lastOkAt?.toISOString() ?? null,
  troubleSince: pull.troubleSince?.toISOString() ?? null,
  problem: pull.problem ?? null,
  backlog: pull.backlog ?? null,
  unfetched: pull.unfetched ?? null,
});

/** What can be listened to at an outside service, for the choice in the setup of a kind. */
export async function listChoices(use: Use, kind: string, query: URLSearchParams): Promise<ChoicePage> {
  const module = sourceModules.get(kind);
  if (!module?.setup.choices) throw notHere('list');
  const page = await module.setup.choices(use.runtime.sourcePorts.of(use.actor.businessId, use.actor.businessName), {
    connectionId: query.get('connection') ?? '',
    query: (query.get('q') ?? '').slice(0, 200),
    after: query.get('after'),
    of: query.get('of') ?? '',
  });
  if (!page.ok) throw new Refusal(502, 'service', page.problem);
  return { choices: page.choices, next: page.next };
}

export const AddSource = z.object({ kind: z.string() }).loose();

/** Makes a source and has it listen; it stays in waiting until its lead card is confirmed, unless the kind knows it. */
export async function addSource(use: Use, input: z.infer<typeof AddSource>): Promise<SourceView> {
  demand(use.actor, 'build');
  const module = sourceModules.get(input.kind);
  if (!module) throw new Refusal(422, 'no-such-kind', 'This kind of source is not known here.');
  const read = readAs(module.setup.input, input);
  if (!read.success) {
    const issue = read.error.issues[0];
    throw new Refusal(422, 'input', `${issue?.message ?? 'Something is missing'}.`, { field: issue?.path.join('.') });
  }
  const secret = newSigningSecret();
  const key = keyFor(module);
  const prepared = await module.setup.prepare(
    use.runtime.sourcePorts.of(use.actor.businessId, use.actor.businessName),
    read.data,
    {
      address: hookOf(use, key),
      secret,
    },
  );
  if (!prepared.ok) throw new Refusal(502, 'not-set-up', `${prepared.problem} Nothing was set up.`);
  return use.write(async (tx) => {
    const made = tx.em.create(Source, {
      id: uuidv7(),
      business: tx.actor.businessId,
      kind: module.definition.kind,
      name: prepared.name,
      settings: prepared.settings as Record<string, unknown>,
      key,
      card: prepared.card ?? EMPTY_CARD,
      cardConfirmed: prepared.card !== undefined,
      secret: tx.runtime.secrets.seal(secret),
      state: prepared.card ? 'live' : 'waiting',
      createdAt: new Date(),
    });
    if (prepared.pull) {
      const { everyMinutes, cursor, backlog } = prepared.pull;
      tx.em.create(Pull, {
        source: made,
        cursor,
        everyMinutes,
        nextAt: new Date(),
        backlog: backlog > 0 ? { total: backlog, done: 0 } : null,
      });
    }
    tx.note('source.add', made.id, { kind: made.kind, name: made.name });
    await tx.em.flush();
    tx.forget();
    return sourceView(tx, made);
  });
}

export const suggestCard = (use: Use, fields: Field[]): LeadCard => guessCard(fields, use.actor.country);

/** Confirms which field is which. The first time, the source goes live with it. */
export async function saveCard(tx: Write, id: string, card: LeadCard): Promise<SourceView> {
  demand(tx.actor, 'build');
  const source = await findSource(tx, id);
  if (moduleOf(source).definition.brings === 'people' && !card.fields.email && !card.fields.phone)
    throw new Refusal(
      422,
      'no-way-to-reach',
      'Say which field is the email or the phone: without one of them nobody can be answered or recognised.',
    );
  const missing = cardProblem(card);
  if (missing) throw new Refusal(422, 'consent-elsewhere', missing);
  source.card = card;
  if (!source.cardConfirmed) {
    source.state = 'live';
    await fetchSoon(tx, id);
  }
  source.cardConfirmed = true;
  tx.note('source.card', id, { card });
  await tx.em.flush();
  tx.forget();
  return sourceView(tx, source);
}

/** The signing secret of a webhook, to be copied into the sending application. Looking is audited. */
export async function showSourceSecret(tx: Write, id: string): Promise<string> {
  demand(tx.actor, 'build');
  const source = await findSource(tx, id);
  tx.note('source.show_secret', id);
  await tx.em.flush();
  return source.secret ? tx.runtime.secrets.open(source.secret) : '';
}
