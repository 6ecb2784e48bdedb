import { expect } from 'chai';
import fc from 'fast-check';
import type { Answer } from '../../src/core/delivery/answer.ts';
import type { Definition, Step } from '../../src/core/workflow/definition.ts';
import type { OutgoingMessage } from '../../src/core/workflow/plan.ts';
import type { RunContext } from '../../src/core/workflow/run-context.ts';
import type { HotStore, Progress, StepRow } from '../../src/db/hot/store.ts';
import { type BusinessDesk, deliveryId } from '../../src/engine/directory.ts';
import type { LeasedRun, PendingDelivery } from '../../src/engine/leased-run.ts';
import type { Leases } from '../../src/engine/leases.ts';
import { runThrough } from '../../src/engine/run-through.ts';
import type { Outside } from '../../src/steps/performers.ts';
import { deskOf, momentOf, nadia, sheetOf, stepOf } from '../stage/sheets.ts';

const RUN = '01999999-0000-7000-8000-000000000001';
const context: RunContext = nadia({
  person: { first_name: 'NADIA', last_name: 'OKAFOR', email: 'nadia@example.com', phone: '07700 900142' },
});
const desk: BusinessDesk = {
  desk: deskOf({ colleagues: [{ id: 'c', name: 'Tomas', email: 'tomas@wrenfield.example' }] }),
  accounts: new Map([
    ['t', { kind: 'text', address: 'http://gateway', token: null, reportTo: '' }],
    ['e', { kind: 'email', address: 'smtp://mail', user: null, password: null }],
  ]),
};
const text = (id: string, more: Partial<Step> = {}): Step =>
  stepOf('text', id, { message: `${id} for {{ lead.first_name }}`, needsConsent: true }, more);
const tell = (id: string): Step => stepOf('tell', id, { colleague: 'c', subject: id, message: 'x' });
const tidy: Step = stepOf('tidy', 'tidy', { names: true, email: true, phone: true });
const sheet = (lead: Step[], team: Step[] = []): Definition =>
  sheetOf([momentOf('m', { first: [tidy], lanes: { lead, record: [], team } })]);

/** A store in memory, and a gateway that keeps to its keys: a model of the world the engine works in. */
class Model {
  steps = new Map<string, StepRow>();
  deliveries = new Map<string, PendingDelivery & { stepId: string; settled: boolean }>();
  needs: unknown[] = [];
  consent: RunContext['consent'] = context.consent;
  run: NonNullable<Progress['runs']>[number] | null = null;
  lead: Record<string, unknown> = {};
  /** Every message the gateway put through, by key; a repeat of a key goes through once. */
  through = new Map<string, OutgoingMessage>();
  order: string[] = [];
  handed = 0;
  writes = 0;

  constructor(
    readonly definition: Definition,
    /** What the world answers to the n-th handing over. */
    readonly world: (stepId: string, n: number) => Answer['kind'] | 'vanishes',
    /** Writes that fail: before the commit, or after it, so that the engine does not learn of it. */
    readonly failing: (n: number) => 'before' | 'after' | null = () => null,
  ) {}

  readonly store = {
    write: async (progress: Progress) => {
      const fails = this.failing(++this.writes);
      if (fails === 'before') throw new Error('the database went away before the commit');
      for (const one of progress.deliveries ?? []) {
        const id = String(one.id);
        if (!this.deliveries.has(id))
          this.deliveries.set(id, {
            id,
            stepId: String(one.step_id),
            message: one.message as OutgoingMessage,
            connectionId: String(one.connection_id),
            createdAt: '',
            settled: false,
          });
      }
      for (const one of progress.answers ?? []) this.deliveries.get(one.id)!.settled = true;
      for (const one of progress.steps ?? []) this.steps.set(one.step_id, one);
      for (const one of progress.leads ?? []) Object.assign(this.lead, one);
      this.needs.push(...(progress.needs ?? []));
      for (const one of progress.runs ?? []) this.run = one;
      if (fails === 'after') throw new Error('the database went away after the commit');
      return undefined;
    },
  } as unknown as HotStore;

  leased(): LeasedRun {
    return {
      id: RUN,
      businessId: 'b',
      workflowId: 'w',
      leadId: 'l',
      moments: new Map(),
      momentId: null,
      momentAt: '2026-01-01T00:00:00Z',
      fresh: true,
      definition: this.definition,
      context: { ...context, consent: this.consent },
      steps: new Map(this.steps),
      pending: new Map(
        [...this.deliveries.values()].filter((one) => !one.settled).map((one) => [`${one.stepId}:0`, one]),
      ),
      createdAt: '2026-01-01T00:00:00Z',
      firstReplyAt: null,
      fromStep: null,
    };
  }

  clock = 0;
  /** Runs until the run is finished, taking up again after every crash and every wait. */
  async toTheEnd(): Promise<void> {
    for (let rounds = 0; rounds < 400; rounds++) {
      try {
        await runThrough(this.leased(), desk, {
          performers: new Map(),
          inSheet: async () => false,
          store: this.store,
          leases: { holds: () => true, holder: 'me' } as unknown as Leases,
          now: () => this.clock++,
          random: () => 0,
          outside: {
            http: {
              call: async (_m: string, _a: string, headers: Record<string, string>, body: string) =>
                this.hand(headers['idempotency-key']!, JSON.parse(body)),
            },
            mail: { send: async (_a: unknown, message: OutgoingMessage, key: string) => this.mail(key, message) },
            now: () => 0,
          } as unknown as Outside,
        });
      } catch {
        continue;
      }
      if (this.run && this.run.due_at === null) return;
    }
    throw new Error('the run never came to its end');
  }

  private accept(key: string, message: OutgoingMessage) {
    if (this.through.has(key)) return;
    this.through.set(key, message);
    this.order.push(this.deliveries.get(key)!.stepId);
  }
  private hand(key: string, body: { to: string; text: string; from: string }) {
    const kind = this.world(this.deliveries.get(key)!.stepId, ++this.handed);
    if (kind === 'accepted' || kind === 'vanishes')
      this.accept(key, { channel: 'text', audience: 'lead', parts: 1, ...body });
    if (kind === 'vanishes') return { ok: false, code: 'timeout', detail: 'no answer' };
    return {
      ok: true,
      reply: { status: kind === 'accepted' ? 202 : kind === 'again' ? 503 : 422, retryAfter: null, body: '{}' },
    };
  }
  private mail(key: string, message: OutgoingMessage): Answer {
    this.accept(key, message);
    return { kind: 'accepted', code: 'smtp-250', detail: '', remoteId: null };
  }
}

describe('the engine, against a simple model', () => {
  it('tidies first, then runs the lanes, and finishes', async () => {
    const model = new Model(sheet([text('a'), text('b')], [tell('t')]), () => 'accepted');
    await model.toTheEnd();
    expect(model.lead).to.include({ first_name: 'Nadia', phone: '+447700900142' });
    expect([...model.through.values()].filter((m) => m.channel === 'text').map((m) => m.text)).to.deep.equal([
      'a for Nadia',
      'b for Nadia',
    ]);
    expect(model.run).to.include({ state: 'done', outcome: 'Text sent, Team told' });
  });

  it('a slow lane does not hold up the others', async () => {
    let release: (() => void) | undefined;
    const model = new Model(sheet([text('a')], [tell('t')]), () => 'accepted');
    const hand = (model as unknown as { hand: (...a: unknown[]) => unknown }).hand.bind(model);
    (model as unknown as { hand: unknown }).hand = async (...args: unknown[]) => {
      await new Promise<void>((resolve) => {
        release = resolve;
      });
      return hand(...args);
    };
    const end = model.toTheEnd();
    while (!model.order.includes('t')) await new Promise((resolve) => setTimeout(resolve, 1));
    expect(model.order).to.deep.equal(['t']);
    release!();
    await end;
    expect(model.order).to.deep.equal(['t', 'a']);
  });

  it('a final refusal stops the lane when it is set to, and the rest is left out', async () => {
    const model = new Model(
      sheet([text('a', { ifFails: { tryForMinutes: 60, after: 'stop_lane' } }), text('b')], [tell('t')]),
      () => 'refused',
    );
    await model.toTheEnd();
    expect([...model.steps.values()].map((step) => `${step.step_id} ${step.state}`).sort()).to.deep.equal([
      'a refused',
      'b skipped',
      't done',
      'tidy done',
    ]);
    expect(model.run?.state).to.equal('needs_you');
    expect(model.needs).to.have.length(1);
  });

  it('gives up after an hour of trying and asks a person', async () => {
    let model: Model;
    const later = () => {
      model.clock += 20 * 60_000;
      return 'again' as const;
    };
    model = new Model(sheet([text('a')]), later);
    await model.toTheEnd();
    expect(model.run?.state).to.equal('needs_you');
    expect(model.steps.get('a')?.state).to.equal('refused');
  });

  it('whatever the world and the database do: nothing lost, nothing twice, order kept in a lane', async () => {
    const answers = fc.array(fc.constantFrom<Answer['kind'] | 'vanishes'>('accepted', 'again', 'vanishes', 'refused'), {
      maxLength: 12,
    });
    const failures = fc.array(fc.constantFrom<'before' | 'after' | null>(null, null, 'before', 'after'), {
      maxLength: 20,
    });
    await fc.assert(
      fc.asyncProperty(answers, failures, fc.integer({ min: 1, max: 4 }), async (world, failing, steps) => {
        const ids = Array.from({ length: steps }, (_, i) => `s${i}`);
        const model = new Model(
          sheet(
            ids.map((id) => text(id)),
            [tell('t')],
          ),
          (_, n) => world[n - 1] ?? 'accepted',
          (n) => failing[n - 1] ?? null,
        );
        await model.toTheEnd();
        for (const id of [...ids, 't']) {
          const step = model.steps.get(id);
          expect(step, `${id} was settled`).to.not.equal(undefined);
          const went = model.order.filter((one) => one === id).length;
          // Once at most; and always when the step says done. A refused step may have vanished on the way before.
          expect(went, `${id} went through`).to.be.at.most(1);
          if (step!.state === 'done') expect(went, `${id} is done`).to.equal(1);
          else expect(step!.state, id).to.equal('refused');
        }
        const lane = model.order.filter((one) => one.startsWith('s'));
        expect(lane, 'order in the lane').to.deep.equal([...lane].sort());
      }),
      { numRuns: 150 },
    );
  }).timeout(60_000);

  it('a text still waiting for another try stays here when they have asked for no more meanwhile', async () => {
    const model = new Model(sheet([text('a')], [tell('t')]), () => 'accepted');
    const key = deliveryId(RUN, 'a');
    const planned = {
      channel: 'text' as const,
      audience: 'lead' as const,
      to: '+447700900142',
      from: 'Wrenfield',
      text: 'a',
      parts: 1,
    };
    model.deliveries.set(key, {
      id: key,
      stepId: 'a',
      message: planned,
      connectionId: 't',
      createdAt: '',
      settled: false,
    });
    model.consent = { text: 'withdrawn', email: 'given' };
    await model.toTheEnd();
    expect(model.order).to.deep.equal(['t']);
    expect(model.deliveries.get(key)?.settled).to.equal(true);
    expect(model.run).to.include({ state: 'stopped', outcome: 'Stopped: asked for no more texts' });
  });

  it('a process that has lost its lease sends nothing more', async () => {
    const model = new Model(sheet([text('a'), text('b')]), () => 'accepted');
    let held = true;
    await runThrough(model.leased(), desk, {
      performers: new Map(),
      inSheet: async () => false,
      store: model.store,
      leases: { holds: () => held, holder: 'me' } as unknown as Leases,
      now: () => 1,
      random: () => 0,
      outside: {
        http: {
          call: async () => {
            held = false;
            return { ok: true, reply: { status: 202, retryAfter: null, body: '{}' } };
          },
        },
        now: () => 0,
      } as unknown as Outside,
    });
    expect([...model.deliveries.values()].map((one) => one.stepId)).to.deep.equal(['a']);
    expect(model.run).to.equal(null);
  });
});
