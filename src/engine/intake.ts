import { v7 as uuidv7 } from 'uuid';
import { storableText } from '../core/fields/field.ts';
import { SIGNATURE_PROBLEMS, verifyWebhook } from '../core/signing/standard-webhooks.ts';
import { draftLead } from '../core/source/lead-draft.ts';
import type { RawArrival, SourceReading } from '../core/source/source-kind.ts';
import { startContext } from '../core/workflow/run-context.ts';
import type { AcceptItem, HotStore } from '../db/hot/store.ts';
import { sourceKinds } from '../sources/registry.ts';
import type { Bell } from './bell.ts';
import type { Conductor } from './conductor.ts';
import type { Directory, KnownSource } from './directory.ts';
import { LEASE_SECONDS, type Leases } from './leases.ts';

/** Largest body taken, in bytes: 1 MiB. */
export const MOST_BYTES = 1024 * 1024;

/** What the sender is told; `problem` by RFC 9457. */
export type IntakeReply =
  | { status: 202; arrivalId: string; repeat: boolean }
  | {
      status: 400 | 401 | 404 | 413 | 422 | 503;
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
};
const NOBODY = { first_name: '', last_name: '', email: '', phone: '' };

/** Takes in what arrives at a source's address: stores it, and answers 2xx only after the commit. */
export class Intake {
  constructor(
    private readonly parts: {
      store: HotStore;
      directory: Directory;
      conductor: Conductor;
      leases: Leases;
      bell: Bell;
      now: () => number;
    },
  ) {}

  async receive(sourceKey: string, raw: RawArrival): Promise<IntakeReply> {
    try {
      const source = await this.parts.directory.sourceByKey(sourceKey);
      if (!source)
        return {
          status: 404,
          code: 'no-such-source',
          problem: 'Nothing listens at this address. Copy it again from the source in Pine Bell.',
        };
      return await this.take(source, raw);
    } catch (error) {
      console.error(`intake: ${(error as Error).message}`);
      return {
        status: 503,
        code: 'not-stored',
        problem: 'It could not be stored just now and nothing was kept. Send it again.',
        retryAfter: 5,
      };
    }
  }

  private async take(source: KnownSource, raw: RawArrival): Promise<IntakeReply> {
    const kind = sourceKinds.get(source.kind);
    const settings = kind?.settings.safeParse(source.settings);
    if (!kind || !settings?.success) throw new Error(`source ${source.id} cannot be read`);
    if (kind.mustBeSigned(settings.data)) {
      const { headers } = raw;
      const signed = {
        id: headers['webhook-id'] ?? null,
        timestamp: headers['webhook-timestamp'] ?? null,
        signature: headers['webhook-signature'] ?? null,
      };
      const problem =
        source.secret === null ? 'bad-secret' : verifyWebhook(source.secret, signed, raw.body, this.parts.now());
      // Anybody can send something unsigned: it is kept as evidence, but under no sender's id, so it cannot stand in its way.
      if (problem) return this.refuse(source, raw, null, 401, `signature-${problem}`, SIGNATURE_PROBLEMS[problem]);
    }
    const reading: SourceReading = kind.read(raw, settings.data);
    if (!reading.ok)
      return this.refuse(source, raw, null, REFUSAL_STATUS[reading.code] ?? 400, reading.code, reading.problem);

    const { entry } = reading;
    const externalId = entry.externalId === null ? null : storableText(entry.externalId).slice(0, 300);
    const draft = draftLead(entry.fields, source.card, source.business.country);
    const live = source.state === 'live';
    const item: AcceptItem = {
      ...this.blank(source, raw),
      external_id: externalId,
      fields: entry.fields,
      where_from: entry.whereFrom,
      state: live ? 'read' : 'held',
      person: draft.person,
      identities: draft.identities,
      answers: draft.answers,
      consent: draft.consent ? { ...draft.consent, how: `Asked by ${source.name}` } : null,
    };
    const accepted = await this.parts.store.accept(item);
    this.parts.bell.ring(source.business.id);
    if (accepted.repeat || !accepted.known)
      return { status: 202, arrivalId: accepted.arrival_id, repeat: accepted.repeat };

    for (const started of accepted.runs ?? []) {
      const version = await this.parts.directory.version(started.version_id);
      if (!version) continue;
      this.parts.conductor.begin({
        id: started.run_id,
        businessId: source.business.id,
        leadId: accepted.lead_id!,
        definition: version.definition,
        context: startContext(draft, accepted.known, {
          where: entry.whereFrom,
          business: source.business,
          source: { name: source.name },
          consent: { text: accepted.consent?.text ?? 'unknown', email: accepted.consent?.email ?? 'unknown' },
        }),
        steps: new Map(),
        pending: new Map(),
        createdAt: item.received_at,
        firstReplyAt: null,
        fromStep: null,
      });
    }
    return { status: 202, arrivalId: accepted.arrival_id, repeat: false };
  }

  private async refuse(
    source: KnownSource,
    raw: RawArrival,
    externalId: string | null,
    status: 400 | 401 | 422,
    code: string,
    problem: string,
  ): Promise<IntakeReply> {
    const item: AcceptItem = {
      ...this.blank(source, raw),
      external_id: externalId,
      state: 'refused',
      problem,
      // One entry per source and kind of trouble: a sender that keeps trying does not bury the rest.
      needs_you: {
        id: uuidv7(),
        subject: `source:${source.id}:${code}`,
        title: status === 401 ? 'Arrival with a wrong signature' : 'Arrival not understood',
        detail: `${source.name}: ${problem} What was sent is kept.`,
      },
    };
    const accepted = await this.parts.store.accept(item);
    this.parts.bell.ring(source.business.id);
    return { status, code, problem, arrivalId: accepted.arrival_id };
  }

  private blank(source: KnownSource, raw: RawArrival): AcceptItem {
    return {
      arrival_id: uuidv7(),
      business_id: source.business.id,
      source_id: source.id,
      external_id: null,
      received_at: new Date(this.parts.now()).toISOString(),
      headers: raw.headers,
      body: Buffer.from(raw.body).toString('base64'),
      fields: [],
      where_from: {},
      state: 'read',
      problem: null,
      person: NOBODY,
      identities: [],
      answers: {},
      consent: null,
      new_lead_id: uuidv7(),
      touch_id: uuidv7(),
      run_id: uuidv7(),
      lease_by: this.parts.leases.holder,
      lease_seconds: LEASE_SECONDS,
      needs_you: null,
    };
  }
}
