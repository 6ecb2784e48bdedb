import { expect } from 'chai';
import type { HotStore } from '../../src/db/hot/store.ts';
import { Bell } from '../../src/engine/bell.ts';
import { deliveryId } from '../../src/engine/delivery/delivery-id.ts';
import { LEASE_SECONDS, Leases } from '../../src/engine/leases.ts';
import { Conductor } from '../../src/engine/runs/conductor.ts';
import type { EngineParts } from '../../src/engine/runs/engine-parts.ts';
import type { LeasedRun, StepRecord } from '../../src/engine/runs/leased-run.ts';
import { runOutcome } from '../../src/engine/runs/outcome.ts';
import type { Provisions, SettingsCache } from '../../src/engine/settings-cache.ts';
import { momentOf, sheetOf } from '../stage/sheets.ts';

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('leases', () => {
  it('are ours for their time less a margin, and not a moment longer', () => {
    let clock = 0;
    const leases = new Leases('me', {} as HotStore, () => clock);
    leases.take('r');
    clock = (LEASE_SECONDS - 2) * 1000 - 1;
    expect(leases.holds('r')).to.equal(true);
    clock += 1;
    expect(leases.holds('r')).to.equal(false);
    expect(leases.holds('other')).to.equal(false);
  });
  it('given back, they are free at once', async () => {
    const asked: unknown[] = [];
    const leases = new Leases(
      'me',
      {
        renew: async (...args: unknown[]) => {
          asked.push(args);
          return new Set();
        },
      } as unknown as HotStore,
      () => 0,
    );
    leases.take('r');
    await leases.giveBack(['r']);
    expect(leases.holds('r')).to.equal(false);
    expect(asked).to.deep.equal([['me', 0, ['r']]]);
  });
});

describe('the conductor', () => {
  const run = (id: string): LeasedRun => ({
    id,
    businessId: 'b',
    workflowId: 'w',
    leadId: 'l',
    listId: null,
    definition: sheetOf([momentOf('m')]),
    context: {} as never,
    steps: new Map(),
    moments: new Map(),
    momentId: null,
    momentAt: '2026-01-01T00:00:00Z',
    fresh: true,
    pending: new Map(),
    createdAt: '2026-01-01T00:00:00Z',
    cameAt: null,
    firstReplyAt: null,
    fromStep: null,
  });
  const made = (provisionsOf: () => Promise<Provisions>) => {
    const back: string[] = [];
    const store = {
      renew: async (_: string, seconds: number, ids: string[]) => {
        if (seconds === 0) back.push(...ids);
        return new Set(ids);
      },
      takeDue: async () => [],
      write: async () => undefined,
    } as unknown as HotStore;
    const leases = new Leases('me', store, () => Date.now());
    const conductor = new Conductor(
      { store, leases, now: () => Date.now() } as unknown as EngineParts,
      { provisionsOf } as unknown as SettingsCache,
      { ring() {} } as unknown as Bell,
    );
    return { conductor, back, leases };
  };

  it('gives back what it has not begun when it is stopped, and takes on nothing more', async () => {
    let release = () => {};
    const held = new Promise<Provisions>((resolve) => {
      release = () => resolve({} as Provisions);
    });
    const { conductor, back } = made(() => held);
    for (let i = 0; i < 250; i++) conductor.begin(run(`r${i}`));
    const stopped = conductor.stop(200);
    await pause(20);
    expect(back.length, 'the fifty that had not begun').to.equal(50);
    conductor.begin(run('late'));
    await pause(10);
    expect(back).to.include('late');
    release();
    await stopped;
  });

  it('a run that breaks is let go, so that its lease can run out and another process take it', async () => {
    const { conductor, leases } = made(() => Promise.reject(new Error('the database went away')));
    const said = console.error;
    console.error = () => {};
    conductor.begin(run('r'));
    await pause(20);
    console.error = said;
    expect(leases.held()).to.deep.equal([]);
  });
});

describe('the bell', () => {
  it('folds many rings into one notification', async () => {
    const told: unknown[] = [];
    const bell = new Bell({
      query: async (_: string, values: unknown[]) => {
        told.push(values[1]);
      },
    } as never);
    for (let i = 0; i < 100; i++) bell.ring(i % 2 ? 'a' : 'b');
    await pause(320);
    expect(told).to.deep.equal([['b', 'a']]);
  });
});

describe('what a run came to, in words', () => {
  const send = (
    state: StepRecord['state'],
    channel: 'text' | 'email',
    audience: 'lead' | 'team' = 'lead',
  ): StepRecord => ({
    step_id: `${channel}${audience}`,
    place: audience === 'team' ? 'team' : 'lead',
    state,
    plan: { does: 'send', message: { channel, audience } as never },
    attempts: [],
    started_at: '',
    next_try_at: null,
    instead: null,
    results: null,
  });
  const stopped: StepRecord = {
    step_id: 's',
    place: 'lead',
    state: 'nothing',
    plan: { does: 'nothing', why: { code: 'no_consent', text: 'Stopped: no consent to texts' } },
    attempts: [],
    started_at: '',
    next_try_at: null,
    instead: null,
    results: null,
  };
  const cases: [string, StepRecord[], { state: string; outcome: string }][] = [
    [
      'all went',
      [send('done', 'email', 'team'), send('done', 'text'), send('done', 'email')],
      { state: 'done', outcome: 'Text sent, Email sent, Team told' },
    ],
    [
      'one refused',
      [send('refused', 'text'), send('done', 'email')],
      { state: 'needs_you', outcome: 'Text refused, Email sent' },
    ],
    [
      'nobody may be written to',
      [stopped, send('done', 'email', 'team')],
      { state: 'stopped', outcome: 'Stopped: no consent to texts' },
    ],
    [
      'the email went though the text was not allowed',
      [stopped, send('done', 'email')],
      { state: 'done', outcome: 'Email sent, Stopped: no consent to texts' },
    ],
    [
      'the team could not be told',
      [send('refused', 'email', 'team')],
      { state: 'needs_you', outcome: 'Team could not be told' },
    ],
    ['under way', [send('again', 'text')], { state: 'done', outcome: 'Text is tried again' }],
  ];
  for (const [name, records, expected] of cases) it(name, () => expect(runOutcome(records)).to.deep.equal(expected));
});

describe('the key of a delivery', () => {
  it('is the same whoever makes it, and differs by run, step and item', () => {
    const run = '01999999-0000-7000-8000-000000000001';
    const keys = [
      deliveryId(run, 'a'),
      deliveryId(run, 'b'),
      deliveryId(run, 'a', 1),
      deliveryId('01999999-0000-7000-8000-000000000002', 'a'),
    ];
    expect(new Set(keys).size).to.equal(4);
    expect(deliveryId(run, 'a')).to.equal(keys[0]);
    // RFC 9562 §5.5: version 5.
    for (const key of keys) expect(key[14]).to.equal('5');
  });
});
