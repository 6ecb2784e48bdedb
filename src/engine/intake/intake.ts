import type { Hears } from '../../core/described/description.ts';
import { echoed } from '../../core/described/heard.ts';
import { readAs } from '../../core/read-as.ts';
import { draftLead, type LeadDraft } from '../../core/source/lead-draft.ts';
import { SAMPLE } from '../../core/source/sample.ts';
import type { RawArrival, SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import type { Accepted, AcceptItem } from '../../db/hot/rows.ts';
import type { HotStore } from '../../db/hot/store.ts';
import { log } from '../../log.ts';
import type { StrangerReader } from '../../reading/stranger-reader.ts';
import { sourceKinds } from '../../sources/registry.ts';
import type { Bell } from '../bell.ts';
import type { Leases } from '../leases.ts';
import type { Conductor } from '../runs/conductor.ts';
import type { KnownSource, SettingsCache } from '../settings-cache.ts';
import { readItem, refusedItem, type Taking } from './accept-item.ts';
import { ArrivalRate } from './arrival-rate.ts';
import { begunRun } from './begun-run.ts';
import type { FloodBreaker } from './flood-breaker.ts';
import { signatureProblem } from './signature-problem.ts';

/** Largest body taken, in bytes: 1 MiB. */
export const MOST_BYTES = 1024 * 1024;
/** Largest mail taken, in bytes: 12 MiB, attachments and all. */
export const MOST_MAIL_BYTES = 12 * 1024 * 1024;

/** Of what is not signed as it should be, what is kept of a source in a minute. What comes beyond is answered and forgotten. */
const UNSIGNED_PER_MINUTE = 10;

/** What the sender is told; `problem` by RFC 9457. */
export type IntakeReply =
  | {
      status: 202;
      arrivalId: string;
      repeat: boolean;
      count: number;
      /** What the service wants to hear, where its description says so. */
      said?: Hears['reply'];
    }
  | {
      status: 400 | 401 | 404 | 413 | 422 | 429 | 503;
      code: string;
      problem: string;
      arrivalId?: string;
      retryAfter?: number;
    };

const REFUSAL_STATUS: Record<string, 400 | 422> = {
  'too-deep': 422,
  'too-many': 422,
  shape: 422,
  'other-form': 422,
  empty: 422,
  'too-heavy': 422,
};

/** What a source's own reader made of a raw item: the rows to store for it. */
interface Understood {
  items: AcceptItem[];
  drafts: LeadDraft[];
  /** When each was done, as the sender says. */
  saidAt: (string | null)[];
  /** Null when it was read; else what the sender is told. */
  refusal: { code: string; problem: string } | null;
}

/** Takes in what arrives at a source's address: stores it, and answers 2xx only after the commit. */
export class Intake {
  private readonly rate: ArrivalRate;
  private readonly unsignedRate: ArrivalRate;

  constructor(
    private readonly parts: {
      store: HotStore;
      settingsCache: SettingsCache;
      conductor: Conductor;
      leases: Leases;
      bell: Bell;
      reader: StrangerReader;
      flood: FloodBreaker;
      now: () => number;
    },
  ) {
    this.rate = new ArrivalRate(parts.now);
    this.unsignedRate = new ArrivalRate(parts.now);
  }

  /** `comesBy` is the way it came; a source that takes arrivals by another way does not listen here. */
  async receive(
    sourceKey: string,
    raw: RawArrival,
    comesBy: SourceKind['comesBy'] = 'hook',
    /** The header of that name, by which some services prove themselves; it is not kept. */
    authorization = '',
  ): Promise<IntakeReply> {
    try {
      const source = await this.parts.settingsCache.sourceByKey(sourceKey);
      if (!source || sourceKinds.get(source.kind)?.comesBy !== comesBy)
        return {
          status: 404,
          code: 'no-such-source',
          problem: 'Nothing listens at this address. Copy it again from the source in Pine Bell.',
        };
      return await this.take(source, raw, authorization);
    } catch (error) {
      log.error({ scope: 'intake', err: error }, 'not taken in');
      return {
        status: 503,
        code: 'not-stored',
        problem: 'It could not be stored just now and nothing was kept. Send it again.',
        retryAfter: 5,
      };
    }
  }

  /** What a service wants to see again before it tells us anything; null where nothing is asked for, or nobody listens. */
  async handshake(sourceKey: string, query: Record<string, string>): Promise<string | null> {
    const source = await this.parts.settingsCache.sourceByKey(sourceKey);
    const kind = source && sourceKinds.get(source.kind);
    const service = source && kind ? await this.serviceOf(source, kind) : undefined;
    return service?.hears ? echoed(service.hears, query) : null;
  }

  /** The same for a source that is known already; throws when it could not be stored. */
  async take(source: KnownSource, raw: RawArrival, authorization = ''): Promise<IntakeReply> {
    const { kind, settings } = kindOf(source);
    const service = await this.serviceOf(source, kind);
    const signed = kind.signedBy(settings, service?.hears);
    const shown = authorization === '' ? raw : { ...raw, headers: { ...raw.headers, authorization } };
    const unsigned = signatureProblem(signed, source.secret, shown, this.parts.now(), service?.values);
    // Anybody can send something unsigned: some of it is kept as evidence, but under no sender's id, and of its own allowance, so that it cannot
    // stand in the sender's way.
    if (unsigned) {
      if (this.unsignedRate.take(source.id, UNSIGNED_PER_MINUTE) === null)
        return this.refuse(source, raw, 401, `signature-${unsigned.code}`, unsigned.problem);
      return { status: 401, code: `signature-${unsigned.code}`, problem: unsigned.problem };
    }
    const wait = this.rate.take(source.id, source.mostPerMinute);
    if (wait !== null)
      return {
        status: 429,
        code: 'too-many-at-once',
        problem: `This source takes ${source.mostPerMinute} arrivals a minute. Nothing was kept; send it again in ${wait} seconds.`,
        retryAfter: wait,
      };

    if (source.state === 'live') await this.parts.flood.came(source);
    const { items, drafts, refusal } = await this.understand(source, raw);
    if (refusal) return this.refuse(source, raw, REFUSAL_STATUS[refusal.code] ?? 400, refusal.code, refusal.problem);
    const accepted =
      items.length === 1
        ? [await this.parts.store.accept(items[0]!)]
        : ((await this.parts.store.acceptTogether(items)) ?? []);
    this.parts.bell.ring(source.business.id);
    for (const [i, one] of accepted.entries()) await this.begin(source, items[i]!, drafts[i]!, one);
    return {
      status: 202,
      arrivalId: accepted[0]!.arrival_id,
      repeat: accepted.every((accepted) => accepted.repeat),
      count: accepted.filter((accepted) => !accepted.repeat).length,
      ...(service?.hears && service.hears.reply.body !== '' ? { said: service.hears.reply } : {}),
    };
  }

  /**
   * Stores items that were fetched, with the cursor that says so, in one transaction. Their runs are begun by whichever process
   * looks next. `workflows` are run instead of those that listen. Gives null when the cursor was not ours any more: then nothing was stored.
   */
  async bring(
    source: KnownSource,
    raws: RawArrival[],
    alongside: { text: string; values: unknown[] },
    workflows: AcceptItem['workflows'] = null,
  ): Promise<{ stored: number; refused: number } | null> {
    return this.store(source, await this.readAll(source, raws, workflows), alongside);
  }

  /** What is understood of items that were fetched; nothing is stored. */
  async readAll(
    source: KnownSource,
    raws: RawArrival[],
    workflows: AcceptItem['workflows'] = null,
  ): Promise<AcceptItem[]> {
    const items: AcceptItem[] = [];
    for (const raw of raws) {
      const understood = await this.understand(source, raw);
      if (understood.refusal) items.push(refusedItem(this.taking(), source, raw, 422, understood.refusal));
      else items.push(...understood.items.map((item, i) => ({ ...item, came_at: understood.saidAt[i] ?? null })));
    }
    // What is fetched may have lain there: only what says when it was done is known to be fresh.
    for (const item of items) Object.assign(item, { lease_by: null, lease_seconds: 0, workflows });
    return items;
  }

  /** Stores what was understood, as `bring` says. */
  async store(
    source: KnownSource,
    items: AcceptItem[],
    alongside: { text: string; values: unknown[] },
  ): Promise<{ stored: number; refused: number } | null> {
    const accepted = await this.parts.store.acceptTogether(items, alongside);
    if (!accepted) return null;
    if (items.length > 0) this.parts.bell.ring(source.business.id);
    const refused = items.filter((item) => item.state === 'refused').length;
    return { stored: accepted.filter((accepted) => !accepted.repeat).length - refused, refused };
  }

  /** Reads an arrival that was kept once more, by the source's settings and card of today, and starts what now listens. */
  async handleAgain(
    source: KnownSource,
    arrivalId: string,
    raw: RawArrival,
  ): Promise<{ came: 'read' | 'aside' | 'refused'; started: number }> {
    const { items, drafts, refusal } = await this.understand(source, raw);
    if (refusal) return { came: 'refused', started: 0 };
    // Of a body with several items the others are arrivals of their own; this one is known by its id.
    const item: AcceptItem = { ...items[0]!, arrival_id: arrivalId, external_id: null, again: true, came_at: null };
    if (item.state === 'held') item.state = 'read';
    const accepted = await this.parts.store.accept(item);
    this.parts.bell.ring(source.business.id);
    await this.begin(source, item, drafts[0]!, accepted);
    return { came: item.state === 'aside' ? 'aside' : 'read', started: accepted.runs?.length ?? 0 };
  }

  /**
   * Keeps a fetched item to be looked at, once however often it is fetched. It has no sender's id, so that the same item still comes in when its
   * turn is.
   */
  async keepSample(source: KnownSource, raw: RawArrival): Promise<string> {
    const { items, refusal } = await this.understand(source, raw);
    const item = refusal ? refusedItem(this.taking(), source, raw, 422, refusal) : items[0]!;
    if (!refusal) Object.assign(item, { external_id: null, state: 'aside', problem: SAMPLE });
    const kept = await this.parts.store.newestSample(source.id);
    if (!refusal && kept?.body.equals(Buffer.from(item.body, 'base64'))) return kept.id;
    return (await this.parts.store.accept({ ...item, needs_you: null })).arrival_id;
  }

  private taking(): Taking {
    return { now: this.parts.now(), holder: this.parts.leases.holder };
  }

  private async understand(source: KnownSource, raw: RawArrival): Promise<Understood> {
    const { kind, settings } = kindOf(source);
    const service = await this.serviceOf(source, kind);
    const reading: SourceReading = await this.parts.reader.arrival(kind, raw, settings, service?.hears);
    if (!reading.ok)
      return { items: [], drafts: [], saidAt: [], refusal: { code: reading.code, problem: reading.problem } };
    const drafts = reading.entries.map((entry) => draftLead(entry.fields, source.card, source.business.country));
    const taking = this.taking();
    const items = reading.entries.map((entry, i) => readItem(taking, source, raw, kind, entry, drafts[i]!));
    const saidAt = reading.entries.map((entry, i) => (entry.doneAt ? items[i]!.came_at : null));
    return { items, drafts, saidAt, refusal: null };
  }

  /** What a business says itself of the service a source listens to; undefined where it is spoken to as it ships, or is gone. */
  private async serviceOf(
    { settings, business }: KnownSource,
    kind: SourceKind,
  ): Promise<{ hears: Hears | null; values: Record<string, string> } | undefined> {
    if (!kind.describedAs || typeof settings.connectionId !== 'string') return undefined;
    const { services } = await this.parts.settingsCache.provisionsOf(business.id);
    const service = services.get(settings.connectionId);
    return service && { hears: service.description.hears, values: service.values };
  }

  /** Begins the runs an accepted item started, in this process. */
  private async begin(source: KnownSource, item: AcceptItem, draft: LeadDraft, accepted: Accepted): Promise<void> {
    const { known, runs } = accepted;
    if (accepted.repeat || !known || !runs || runs.length === 0) return;
    const { catalogue } = await this.parts.settingsCache.provisionsOf(source.business.id);
    const owner = catalogue.colleagues.find((colleague) => colleague.id === accepted.owner_id) ?? null;
    for (const started of runs) {
      const version = await this.parts.settingsCache.version(started.version_id);
      if (!version) continue;
      const about = { source, item, draft, accepted: { ...accepted, known }, owner };
      this.parts.conductor.begin(begunRun(started, version.definition, about));
    }
  }

  private async refuse(
    source: KnownSource,
    raw: RawArrival,
    status: 400 | 401 | 422,
    code: string,
    problem: string,
  ): Promise<IntakeReply> {
    const accepted = await this.parts.store.accept(refusedItem(this.taking(), source, raw, status, { code, problem }));
    this.parts.bell.ring(source.business.id);
    return { status, code, problem, arrivalId: accepted.arrival_id };
  }
}

/** A source's kind with its settings read; a row that no kind understands is a fault of ours and is told as one. */
function kindOf(source: KnownSource): { kind: SourceKind; settings: unknown } {
  const kind = sourceKinds.get(source.kind);
  const settings = kind && readAs(kind.settings, source.settings);
  if (!kind || !settings?.success) throw new Error(`source ${source.id} cannot be read`);
  return { kind, settings: settings.data };
}
