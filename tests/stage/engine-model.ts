import type { Answer } from '../../src/core/delivery/answer.ts';
import { saysOneOf } from '../../src/core/message/says-one-of.ts';
import type { WaitsFor } from '../../src/core/workflow/awaited.ts';
import type { Definition } from '../../src/core/workflow/definition.ts';
import type { OutgoingMessage } from '../../src/core/workflow/plan.ts';
import type { RunContext } from '../../src/core/workflow/run-context.ts';
import type { DueRun, MomentRow, Progress, RunRow, StepRow } from '../../src/db/hot/rows.ts';
import type { Settling } from '../../src/db/hot/step-settler.ts';
import type { HotStore } from '../../src/db/hot/store.ts';
import type { Leases } from '../../src/engine/leases.ts';
import type { EngineParts } from '../../src/engine/runs/engine-parts.ts';
import type { PendingDelivery } from '../../src/engine/runs/leased-run.ts';
import { runThrough } from '../../src/engine/runs/run-through.ts';
import { takenUp } from '../../src/engine/runs/take-up.ts';
import type { KnownSource, Provisions } from '../../src/engine/settings-cache.ts';
import type { HttpOutcome } from '../../src/gateways/http.ts';
import type { Outside } from '../../src/steps/performers.ts';
import type { CallAnswer, StepPerformer } from '../../src/steps/step-performer.ts';
import { carrierAt, replied, servicesBy } from './services.ts';
import { catalogueOf } from './sheets.ts';

export const RUN = '01999999-0000-7000-8000-000000000001';
/** When the run of a model begins: a Wednesday morning. */
export const START = Date.parse('2026-01-07T10:00:00Z');

export const modelProvisions: Provisions = {
  catalogue: catalogueOf({ colleagues: [{ id: 'c', name: 'Tomas', email: 'tomas@wrenfield.example', phone: '' }] }),
  directoryAccount: null,
  services: new Map(),
  databases: new Map(),
  places: new Map(),
  accounts: new Map([
    ['t', { businessId: 'b', kind: 'text', service: carrierAt('http://gateway'), reportTo: '' }],
    ['e', { businessId: 'b', kind: 'email', address: 'smtp://mail', user: null, password: null }],
  ]),
};

const field = (key: string, value: string) => ({ key, label: key, value });
const source: KnownSource = {
  id: 's',
  kind: 'webhook',
  name: 'Form',
  state: 'live',
  settings: {},
  card: {
    fields: { first_name: 'first', last_name: 'last', email: 'email', phone: 'phone' },
    consent: { kind: 'not_asked' },
  },
  secret: null,
  mostPerMinute: 600,
  business: { id: 'b', name: 'Wrenfield', country: 'GB', timeZone: 'Europe/London', holidays: [], locale: 'en-GB' },
};

interface Kept extends PendingDelivery {
  stepId: string;
  item: number;
  settled: boolean;
}

/**
 * The world the engine works in, in memory: a database that commits or fails, a gateway that keeps to its keys, a lead who
 * writes back, and a clock that only goes when it is asked or when everybody waits.
 */
export class Model {
  steps = new Map<string, StepRow>();
  moments = new Map<string, MomentRow>();
  deliveries = new Map<string, Kept>();
  needs: unknown[] = [];
  consent: RunContext['consent'] = { text: 'given', email: 'given', chat: 'unknown' };
  run: (RunRow & { waits_for: WaitsFor | null; happened: Record<string, string> | null }) | null = null;
  lead: Record<string, unknown> = {};
  inbound: { at: number; text: string }[] = [];
  /** How often each step's own record was made. */
  recorded = new Map<string, number>();
  /** Every message the gateway put through, by key; a repeat of a key goes through once. */
  through = new Map<string, OutgoingMessage>();
  /** Steps in the order in which they had their effect. */
  order: string[] = [];
  handed = 0;
  writes = 0;
  clock = START;
  answers: Record<string, string> = { instrument: 'Piano' };
  /** When the lead came in by their own doing, ISO 8601. */
  cameAt: string | null = null;
  /** What a service that is called answers, one after another; then that it has been found. */
  calls: ('again' | 'refused')[] = [];
  called = 0;
  /** Whether a process has the run: then what comes in does not touch it. */
  private leased = false;
  private readonly waiting = new Set<{ at: number; then: () => void }>();

  constructor(
    readonly definition: Definition,
    /** What the world answers to the n-th handing over. */
    readonly world: (stepId: string, n: number) => Answer['kind'] | 'vanishes' = () => 'accepted',
    /** Writes that fail: before the commit, or after it, so that the engine does not learn of it. */
    readonly failing: (n: number) => 'before' | 'after' | null = () => null,
    /** Texts the lead writes, in milliseconds after the start. */
    readonly replies: { after: number; text: string }[] = [],
  ) {}

  private async commit<T>(change: () => T): Promise<T> {
    const fails = this.failing(++this.writes);
    if (fails === 'before') throw new Error('the database went away before the commit');
    const came = change();
    if (fails === 'after') throw new Error('the database went away after the commit');
    return came;
  }

  private iso(ms: number): string {
    return new Date(ms).toISOString();
  }

  readonly store = {
    wishesOf: async () => ({ consent: this.consent, marketing: {}, lastChatAt: null }),
    takeMarketingSlot: async () => true,
    write: (progress: Progress) =>
      this.commit(() => {
        for (const delivery of progress.deliveries ?? []) {
          const id = String(delivery.id);
          if (!this.deliveries.has(id))
            this.deliveries.set(id, {
              id,
              stepId: String(delivery.step_id),
              item: Number(delivery.item),
              message: delivery.message as OutgoingMessage,
              connectionId: String(delivery.connection_id),
              createdAt: '',
              settled: false,
            });
        }
        for (const answer of progress.answers ?? []) this.deliveries.get(answer.id)!.settled = true;
        for (const step of progress.steps ?? []) this.steps.set(step.step_id, step);
        for (const moment of progress.moments ?? [])
          if (!this.moments.has(moment.moment_id)) this.moments.set(moment.moment_id, moment);
        for (const lead of progress.leads ?? []) Object.assign(this.lead, lead);
        this.needs.push(...(progress.needs ?? []));
        for (const run of progress.runs ?? []) {
          this.run = { ...run, waits_for: null, happened: null };
          this.leased = false;
        }
        return undefined;
      }),
    settle: async ({ row, work }: Settling) => {
      const came = await work(undefined as never);
      return this.commit(() => {
        const before = this.steps.get(row.step_id);
        if (before && before.state !== 'again' && before.state !== 'held') return null;
        this.steps.set(row.step_id, { ...row, results: came.results ?? [] });
        this.recorded.set(row.step_id, (this.recorded.get(row.step_id) ?? 0) + 1);
        this.order.push(row.step_id);
        return { detail: came.detail, results: came.results ?? [] };
      });
    },
    beginWait: (run: RunRow, _lead: string, waits: WaitsFor, since: string) =>
      this.commit(() => {
        const said = this.inbound.find((one) => one.at > Date.parse(since) && saysOneOf(one.text, waits.words));
        const happened = said ? { it: 'yes', text: said.text } : null;
        this.run = { ...run, waits_for: waits, happened };
        if (!happened) this.leased = false;
        return happened;
      }),
    answersOf: async () => [],
    endedBy: async (_run: string, _lead: string, since: string, rules: { endsWhen: readonly string[] }) =>
      rules.endsWhen.includes('reply') && this.inbound.some((one) => one.at > Date.parse(since)) ? 'reply' : null,
  } as unknown as HotStore;

  /** What the lead has written by now comes in, and wakes a run that no process has. */
  private receive(): void {
    for (const reply of this.replies) {
      const at = START + reply.after;
      if (at > this.clock || this.inbound.some((one) => one.at === at)) continue;
      this.inbound.push({ at, text: reply.text });
      const { run } = this;
      if (!run || this.leased || run.due_at === null) continue;
      if (this.definition.rules.endsWhen.includes('reply'))
        this.run = { ...run, due_at: null, state: 'done', waits_for: null };
      else if (run.waits_for?.event === 'reply' && !run.happened && saysOneOf(reply.text, run.waits_for.words))
        this.run = { ...run, due_at: this.iso(this.clock), happened: { it: 'yes', text: reply.text } };
    }
  }

  /** The row as take_due_runs gives it. */
  private due(): DueRun {
    const { run } = this;
    return {
      run: {
        id: RUN,
        business_id: 'b',
        version_id: 'v',
        source_id: 's',
        lead_id: 'l',
        created_at: this.iso(START),
        first_reply_at: null,
        from_step: null,
        workflow_id: 'w',
        moment_id: run?.moment_id ?? null,
        moment_at: run?.moment_at ?? null,
        happened: run?.happened ?? null,
        came_at: this.cameAt,
      },
      owner_id: null,
      lead_own: {},
      tags: [],
      member_of: [],
      answered: [],
      turns: {},
      moments: [...this.moments.values()],
      fields: [
        field('first', 'NADIA'),
        field('last', 'OKAFOR'),
        field('email', 'nadia@example.com'),
        field('phone', '07700 900142'),
        ...Object.entries(this.answers).map(([key, value]) => field(key, value)),
      ],
      where_from: {},
      known: { first_name: 'Nadia', last_name: 'Okafor', email: 'nadia@example.com', phone: '+447700900142' },
      consent: this.consent,
      marketing: {},
      chat_at: null,
      steps: [...this.steps.values()],
      deliveries: [...this.deliveries.values()].map((delivery) => ({
        id: delivery.id,
        step_id: delivery.stepId,
        item: delivery.item,
        state: delivery.settled ? ('accepted' as const) : ('sending' as const),
        message: delivery.message as unknown as Record<string, unknown>,
        connection_id: delivery.connectionId,
        created_at: '',
      })),
    };
  }

  parts(more: Partial<EngineParts> = {}): EngineParts {
    return {
      store: this.store,
      leases: { holds: () => true, holder: 'me' } as unknown as Leases,
      now: () => this.tick(),
      later: (ms, then) => this.later(ms, then),
      random: () => 0,
      publicUrl: 'http://pine-bell.test',
      token: (words) => words,
      linkKey: new Uint8Array(32),
      membership: { join: async () => 'joined' },
      fact: async () => false,
      texts: { take: async () => true },
      performers: new Map<string, StepPerformer>([
        ['note', { record: async () => ({ detail: 'noted' }) }],
        ['call-service', { call: async () => this.answerCall() }],
      ]),
      outside: {
        services: servicesBy(
          async (_m, _a, headers, body) => this.hand(headers['idempotency-key']!, JSON.parse(String(body))),
          () => this.clock,
        ),
        attachments: { read: async () => ({ ok: true, files: [] }) },
        mail: { send: async (_a: unknown, message: OutgoingMessage, key: string) => this.mail(key, message) },
        now: () => 0,
      } as unknown as Outside,
      ...more,
    };
  }

  private tick(): number {
    this.clock += 1;
    this.receive();
    return this.clock;
  }

  /** What somebody waits for while a run is in hand: once nobody has anything else to do, the clock goes to the first of them. */
  private later(ms: number, then: () => void): () => void {
    const waiting = { at: this.clock + ms, then };
    this.waiting.add(waiting);
    setImmediate(() => {
      const first = [...this.waiting].sort((a, b) => a.at - b.at)[0];
      if (!first) return;
      this.waiting.delete(first);
      this.clock = Math.max(this.clock, first.at);
      this.receive();
      first.then();
    });
    return () => this.waiting.delete(waiting);
  }

  /** One process takes the run up and goes as far as it can, or dies on the way. */
  async once(more: Partial<EngineParts> = {}): Promise<void> {
    this.leased = true;
    const { run } = this;
    if (run?.waits_for && !run.happened) this.run = { ...run, happened: { it: 'no' } };
    const leased = { ...takenUp(this.due(), this.definition, source, modelProvisions), fresh: run === null };
    await runThrough(leased, modelProvisions, this.parts(more));
  }

  /** Runs until the run is finished, taking up again after every crash and every wait. */
  async toTheEnd(): Promise<void> {
    for (let rounds = 0; rounds < 600; rounds++) {
      if (this.run?.due_at === null && this.run.finished_at !== undefined && !this.leased) return;
      if (this.run?.due_at && !this.leased) {
        // Everybody waits: the clock goes to what comes first, a reply or the time.
        const next = Math.min(
          Date.parse(this.run.due_at),
          ...this.replies.map((reply) => START + reply.after).filter((at) => at > this.clock),
        );
        this.clock = Math.max(this.clock, next);
        this.receive();
        if (!this.run.due_at || Date.parse(this.run.due_at) > this.clock) continue;
      }
      await this.once().catch(() => {});
    }
    throw new Error('the run never came to its end');
  }

  private answerCall(): CallAnswer {
    this.called += 1;
    const kind = this.calls.shift();
    if (kind === 'again') return { kind, code: 'http-503', detail: 'away', afterMs: null };
    if (kind === 'refused') return { kind, code: 'http-404', detail: 'no such thing' };
    this.order.push('look');
    return {
      kind: 'accepted',
      code: 'http-200',
      detail: '',
      results: [{ reference: 'found["co.name"]', value: 'Acme' }],
    };
  }

  private accept(key: string, message: OutgoingMessage) {
    if (this.through.has(key)) return;
    this.through.set(key, message);
    this.order.push(this.deliveries.get(key)!.stepId);
  }
  hand(key: string, body: { to: string; text: string; from: string }): HttpOutcome | Promise<HttpOutcome> {
    const kind = this.world(this.deliveries.get(key)!.stepId, ++this.handed);
    if (kind === 'accepted' || kind === 'vanishes')
      this.accept(key, { channel: 'text', audience: 'lead', parts: 1, ...body });
    if (kind === 'vanishes') return { ok: false, code: 'timeout', detail: 'no answer' };
    return replied(kind === 'accepted' ? 202 : kind === 'again' ? 503 : 422, '{}');
  }
  private mail(key: string, message: OutgoingMessage): Answer {
    this.accept(key, message);
    return { kind: 'accepted', code: 'smtp-250', detail: '', remoteId: null };
  }
}
