import { expect } from 'chai';
import fc from 'fast-check';
import type { Condition } from '../../src/core/condition/condition.ts';
import type { Answer } from '../../src/core/delivery/answer.ts';
import type { At } from '../../src/core/workflow/at.ts';
import { type Definition, lanesOf, type Moment, placedSteps, type Step } from '../../src/core/workflow/definition.ts';
import { deliveryId } from '../../src/engine/delivery/delivery-id.ts';
import type { Leases } from '../../src/engine/leases.ts';
import type { Outside } from '../../src/steps/performers.ts';
import { Model, RUN, START } from '../stage/engine-model.ts';
import { replied, servicesBy } from '../stage/services.ts';
import { freshStep, momentOf, sheetOf, stepOf } from '../stage/sheets.ts';

const text = (id: string, more: Partial<Step> = {}): Step =>
  stepOf('text', id, { message: `${id} for {{ lead.first_name }}`, needsConsent: true }, more);
const tell = (id: string): Step => stepOf('tell', id, { colleague: 'c', subject: id, message: 'x' });
const tidy: Step = stepOf('tidy', 'tidy', { names: true, email: true, phone: true });
const sheet = (lead: Step[], team: Step[] = []): Definition =>
  sheetOf([momentOf('m', { first: [tidy], lanes: { lead, record: [], team } })]);

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
    const hand = model.hand.bind(model);
    model.hand = async (...args) => {
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
      item: 0,
      message: planned,
      connectionId: 't',
      createdAt: '',
      settled: false,
    });
    model.consent = { text: 'withdrawn', email: 'given', chat: 'unknown' };
    await model.toTheEnd();
    expect(model.order).to.deep.equal(['t']);
    expect(model.deliveries.get(key)?.settled).to.equal(true);
    expect(model.run).to.include({ state: 'stopped', outcome: 'Stopped: asked for no more texts' });
  });

  it('a service left alone after five failures in a row is tried again when its rest is over, and takes each text once', async () => {
    const model = new Model(sheetOf([momentOf('m', { lanes: lead(text('a'), text('b')) })]), (_, n) =>
      n <= 7 ? 'vanishes' : 'accepted',
    );
    await model.toTheEnd();
    expect(model.order).to.deep.equal(['a', 'b']);
    expect(model.clock - START).to.be.within(1000 + 2000 + 4000, 8000);
  });

  it('a process that has lost its lease sends nothing more', async () => {
    const model = new Model(sheet([text('a'), text('b')]), () => 'accepted');
    let held = true;
    await model.once({
      leases: { holds: () => held, holder: 'me' } as unknown as Leases,
      outside: {
        services: servicesBy(async () => {
          held = false;
          return replied(202, '{}');
        }),
        now: () => 0,
      } as unknown as Outside,
    });
    expect([...model.deliveries.values()].map((delivery) => delivery.stepId)).to.deep.equal(['a']);
    expect(model.run).to.equal(null);
  });
});

const yes: Condition = { field: 'happened.it', test: 'is', value: 'yes', to: '', exact: false };
const note = (id: string): Step => stepOf('note', id, { text: id });
const waitFor = (minutes: number, words = ''): At => ({
  kind: 'event',
  event: 'reply',
  words,
  sources: [],
  tag: '',
  list: '',
  stage: '',
  step: '',
  within: { amount: minutes, unit: 'minutes' },
});
const later = (minutes: number): At => ({ kind: 'later', span: { amount: minutes, unit: 'minutes' } });
const lead = (...steps: Step[]) => ({ lead: steps, record: [], team: [] });
const oneCase = (id: string, when: Condition, ...steps: Step[]) => ({ id, name: '', when, lanes: lead(...steps) });
const caseTaken = (model: Model, momentId: string) => model.moments.get(momentId)?.case_id;

describe('moments, against the model', () => {
  it('a moment later begins at its time, and not before', async () => {
    const model = new Model(
      sheetOf([momentOf('m', { lanes: lead(text('a')) }), momentOf('n', { at: later(10), lanes: lead(text('b')) })]),
    );
    await model.once();
    expect(model.order).to.deep.equal(['a']);
    expect(model.run).to.include({ state: 'active', moment_id: 'n' });
    expect(Date.parse(model.run!.due_at!)).to.equal(START + 600_000);
    await model.toTheEnd();
    expect(model.order).to.deep.equal(['a', 'b']);
  });

  it('an awaited reply goes one way, silence the other', async () => {
    const sheet = sheetOf([
      momentOf('m', { lanes: lead(text('a')) }),
      momentOf('n', { at: waitFor(30), cases: [oneCase('replied', yes, text('b'))], lanes: lead(text('c')) }),
    ]);
    const spoken = new Model(sheet, undefined, undefined, [{ after: 60_000, text: 'Yes please' }]);
    await spoken.toTheEnd();
    expect(spoken.order).to.deep.equal(['a', 'b']);
    const silent = new Model(sheet);
    await silent.toTheEnd();
    expect(silent.order).to.deep.equal(['a', 'c']);
    expect(silent.clock).to.be.at.least(START + 30 * 60_000);
  });

  it('a reply that comes before the run has begun to wait for it still counts', async () => {
    const model = new Model(
      sheetOf([
        momentOf('m', { lanes: lead(text('a')) }),
        momentOf('n', { at: waitFor(30), cases: [oneCase('replied', yes, text('b'))], lanes: lead(text('c')) }),
      ]),
      undefined,
      undefined,
      [{ after: 3, text: 'ok' }],
    );
    await model.toTheEnd();
    expect(model.order).to.deep.equal(['a', 'b']);
  });

  it('ends early when they reply, also in the middle of a moment', async () => {
    for (const after of [3, 60_000]) {
      const model = new Model(
        sheetOf([momentOf('m', { lanes: lead(text('a')) }), momentOf('n', { at: later(10), lanes: lead(text('b')) })], {
          endsWhen: ['reply'],
        }),
        undefined,
        undefined,
        [{ after, text: 'thanks' }],
      );
      await model.toTheEnd();
      expect(model.order, `a reply after ${after} ms`).to.deep.equal(['a']);
      expect(model.run?.state).to.equal('done');
    }
  });

  it('a check that fails ends the moment or the run, and says why', async () => {
    const check = (ends: 'moment' | 'run') =>
      stepOf('check', 'k', {
        condition: { field: 'answers.instrument', test: 'is', value: 'Violin', to: '', exact: false },
        ends,
        name: '',
      });
    for (const [ends, order] of [
      ['moment', ['b']],
      ['run', []],
    ] as const) {
      const model = new Model(
        sheetOf([
          momentOf('m', { first: [check(ends)], lanes: lead(text('a')) }),
          momentOf('n', { at: later(1), lanes: lead(text('b')) }),
        ]),
      );
      await model.toTheEnd();
      expect(model.order).to.deep.equal(order);
      expect(model.moments.get('m')?.skipped).to.match(/Instrument is Violin: it is “Piano”/);
    }
  });

  it('texts are held until the hours begin, and consent is looked at again then', async () => {
    const held = () => {
      const model = new Model(
        sheetOf([momentOf('m', { lanes: { ...lead(text('a')), team: [tell('t')] } })], {
          hours: { text: { from: '18:00', to: '20:00' }, email: null, chat: null },
        }),
      );
      return model;
    };
    const model = held();
    await model.once();
    expect(model.order).to.deep.equal(['t']);
    expect(model.steps.get('a')).to.include({ state: 'held', next_try_at: '2026-01-07T18:00:00.000Z' });
    await model.toTheEnd();
    expect(model.order).to.deep.equal(['t', 'a']);
    const stopped = held();
    await stopped.once();
    stopped.consent = { text: 'withdrawn', email: 'given', chat: 'unknown' };
    await stopped.toTheEnd();
    expect(stopped.order).to.deep.equal(['t']);
  });

  it('refused by text, it goes by email instead, once, whatever breaks in between', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.constantFrom<'before' | 'after' | null>(null, 'before', 'after'), { maxLength: 12 }),
        async (failing) => {
          const model = new Model(
            sheetOf([
              momentOf('m', {
                lanes: lead(text('a', { ifFails: { tryForMinutes: 5, after: 'other_channel' } }), text('b')),
              }),
            ]),
            (stepId) => (stepId === 'a' ? 'refused' : 'accepted'),
            (n) => failing[n - 1] ?? null,
          );
          await model.toTheEnd();
          expect(model.order).to.deep.equal(['a', 'b']);
          expect([...model.through.values()].map((outgoingMessage) => outgoingMessage.channel)).to.deep.equal([
            'email',
            'text',
          ]);
          expect(model.steps.get('a')).to.include({ state: 'done' });
          expect(model.needs).to.deep.equal([]);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('whatever breaks and whenever they write: each moment goes one way, nothing twice, nothing lost, all in order', async () => {
    const at: fc.Arbitrary<At> = fc.oneof(
      fc.integer({ min: 1, max: 30 }).map(later),
      fc
        .tuple(fc.integer({ min: 1, max: 30 }), fc.constantFrom('', 'yes', 'no\nstop it'))
        .map(([minutes, words]) => waitFor(minutes, words)),
    );
    const when = fc.constantFrom<Condition>(
      yes,
      { field: 'answers.instrument', test: 'is', value: 'Piano', to: '', exact: false },
      {
        field: 'happened.text',
        test: 'contains',
        value: 'yes',
        to: '',
        exact: false,
      },
    );
    const counts = fc.record({ lead: fc.nat(2), record: fc.nat(2) });
    const moment = fc.record({ at, cases: fc.array(fc.tuple(when, counts), { maxLength: 2 }), rest: counts });
    const sheets = fc.array(moment, { minLength: 1, maxLength: 3 }).map((list): Definition => {
      const lanes = (id: string, { lead: texts, record }: { lead: number; record: number }) => ({
        lead: Array.from({ length: texts }, (_, i) => text(`${id}t${i}`)),
        record: Array.from({ length: record }, (_, i) => note(`${id}n${i}`)),
        team: [],
      });
      return sheetOf([
        momentOf('m0', { first: [tidy], lanes: lanes('0x', { lead: 1, record: 1 }) }),
        ...list.map(
          (one, m): Moment =>
            momentOf(`m${m + 1}`, {
              at: one.at,
              cases: one.cases.map(([condition, n], c) => ({
                id: `c${c}`,
                name: '',
                when: condition,
                lanes: lanes(`${m + 1}c${c}`, n),
              })),
              lanes: lanes(`${m + 1}x`, one.rest),
            }),
        ),
      ]);
    });
    const world = fc.array(fc.constantFrom<Answer['kind'] | 'vanishes'>('accepted', 'again', 'vanishes'), {
      maxLength: 8,
    });
    const failing = fc.array(fc.constantFrom<'before' | 'after' | null>(null, null, null, 'before', 'after'), {
      maxLength: 30,
    });
    const replies = fc.uniqueArray(
      fc.record({
        after: fc.integer({ min: 1, max: 60 * 60_000 }),
        text: fc.constantFrom('yes', 'No thanks', 'what?'),
      }),
      { maxLength: 3, selector: (one) => one.after },
    );
    await fc.assert(
      fc.asyncProperty(sheets, world, failing, replies, async (sheet, answers, failures, said) => {
        const model = new Model(
          sheet,
          (_, n) => answers[n - 1] ?? 'accepted',
          (n) => failures[n - 1] ?? null,
          said,
        );
        await model.toTheEnd();
        const went = new Map<string, number>();
        for (const id of model.order) went.set(id, (went.get(id) ?? 0) + 1);
        for (const moment of sheet.moments) {
          const taken = moment.cases.length === 0 ? null : caseTaken(model, moment.id);
          expect(taken, `${moment.id} went one way`).to.not.equal(undefined);
          const own = lanesOf(moment, taken!);
          const mine = new Set([...own.lead, ...own.record, ...own.team].map((step) => step.id));
          for (const { step } of placedSteps({ ...sheet, moments: [moment] })) {
            if (step.kind === 'tidy') continue;
            expect(went.get(step.id) ?? 0, `${step.id} in ${moment.id}, case ${taken}`).to.equal(
              mine.has(step.id) ? 1 : 0,
            );
          }
          for (const lane of [own.lead, own.record]) {
            const order = model.order.filter((id) => lane.some((step) => step.id === id));
            expect(order).to.deep.equal(lane.map((step) => step.id));
          }
        }
        const begun = model.order.map((id) => Number(id[0]));
        expect(begun, 'moments one after another').to.deep.equal([...begun].sort());
        expect(model.run?.state).to.equal('done');
      }),
      { numRuns: 300 },
    );
  }).timeout(120_000);
});

const mail = (id: string): Step => freshStep('email', id, { subject: id, message: id });
const call = (more: Partial<Step> = {}): Step =>
  freshStep(
    'call-service',
    'look',
    { name: 'co', method: 'GET', address: 'https://directory.example/', keep: [{ name: 'name', path: 'name' }] },
    more,
  );
const textHours = { hours: { text: { from: '18:00', to: '20:00' }, email: null, chat: null } };
const failures = fc.array(fc.constantFrom<'before' | 'after' | null>(null, null, 'before', 'after'), { maxLength: 16 });

describe('messages that wait for their hours, against the model', () => {
  it('a held text lets the email below it go, unless the coordinator wants their order', async () => {
    for (const [holdsLane, before] of [
      [false, ['b']],
      [true, []],
    ] as const) {
      const model = new Model(
        sheetOf([momentOf('m', { lanes: lead(text('a'), mail('b')) })], { ...textHours, holdsLane }),
      );
      await model.once();
      expect(model.order, `holds: ${holdsLane}`).to.deep.equal(before);
      await model.toTheEnd();
      expect(model.order).to.deep.equal(holdsLane ? ['a', 'b'] : ['b', 'a']);
    }
  });

  it('whatever breaks: each goes once, what may go goes before what is held, and each channel keeps its order', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.boolean(), { minLength: 1, maxLength: 5 }),
        fc.boolean(),
        failures,
        async (texts, holdsLane, failing) => {
          const steps = texts.map((isText, i) => (isText ? text(`t${i}`) : mail(`e${i}`)));
          const model = new Model(
            sheetOf([momentOf('m', { lanes: lead(...steps) })], { ...textHours, holdsLane }),
            undefined,
            (n) => failing[n - 1] ?? null,
          );
          await model.toTheEnd();
          const ids = steps.map((step) => step.id);
          const expected = holdsLane
            ? ids
            : [...ids.filter((id) => id[0] === 'e'), ...ids.filter((id) => id[0] === 't')];
          expect(model.order).to.deep.equal(expected);
          expect(model.clock).to.be.at.least(texts.includes(true) ? Date.parse('2026-01-07T18:00:00Z') : START);
        },
      ),
      { numRuns: 120 },
    );
  }).timeout(60_000);

  it('who has just come in by their own doing is answered at once; news, a later moment and an old arrival wait', async () => {
    const news = stepOf('text', 'news', { message: 'Half price', needsConsent: true, purpose: 'marketing' });
    const sheet = (rules: object = {}) =>
      sheetOf(
        [momentOf('m', { lanes: lead(text('a'), news) }), momentOf('n', { at: later(1), lanes: lead(text('b')) })],
        { ...textHours, ...rules },
      );
    const came = async (cameAt: string | null, rules: object = {}) => {
      const model = new Model(sheet(rules));
      model.cameAt = cameAt;
      await model.once();
      return model.order;
    };
    const minutesAgo = (n: number) => new Date(START - n * 60_000).toISOString();
    expect(await came(minutesAgo(0))).to.deep.equal(['a']);
    expect(await came(minutesAgo(14))).to.deep.equal(['a']);
    expect(await came(minutesAgo(16))).to.deep.equal([]);
    expect(await came(null)).to.deep.equal([]);
    expect(await came(minutesAgo(0), { answerAtOnce: false })).to.deep.equal([]);
    const whole = new Model(sheet());
    whole.cameAt = minutesAgo(0);
    // News need a yes of their own, which this lead never gave.
    await whole.toTheEnd();
    expect(whole.order).to.deep.equal(['a', 'b']);
    expect(whole.clock).to.be.at.least(Date.parse('2026-01-07T18:00:00Z'));
  });
});

describe('a call in First, against the model', () => {
  it('is tried again while the service is away, and what stands behind it has its answer', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 0, max: 8 }), failures, async (away, failing) => {
        const greeting = stepOf('text', 'a', { message: 'From {{ found["co.name"] }}', needsConsent: true });
        const model = new Model(
          sheetOf([momentOf('m', { first: [call()], lanes: { ...lead(greeting), team: [tell('t')] } })]),
          undefined,
          (n) => failing[n - 1] ?? null,
        );
        model.calls = Array.from({ length: away }, () => 'again' as const);
        await model.toTheEnd();
        expect(model.order.filter((id) => id === 'a')).to.deep.equal(['a']);
        expect(model.order.at(0)).to.equal('look');
        expect([...model.through.values()].find((outgoingMessage) => outgoingMessage.channel === 'text')).to.include({
          text: 'From Acme',
        });
        expect(model.run?.state).to.equal('done');
      }),
      { numRuns: 80 },
    );
  }).timeout(60_000);

  it('given up for good, it is a matter for a person, and goes on without it or ends there as the step says', async () => {
    for (const [after, order] of [
      ['carry_on', ['a']],
      ['stop_lane', []],
    ] as const) {
      const model = new Model(
        sheetOf([momentOf('m', { first: [call({ ifFails: { tryForMinutes: 0, after } })], lanes: lead(text('a')) })]),
      );
      model.calls = ['again', 'again'];
      await model.toTheEnd();
      expect(model.order, after).to.deep.equal(order);
      expect(model.needs).to.have.length(1);
      expect(model.run?.state).to.equal('needs_you');
    }
  });
});
