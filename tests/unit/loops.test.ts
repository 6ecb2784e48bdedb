import { expect } from 'chai';
import type pg from 'pg';
import { Lookout } from '../../src/engine/lookout.ts';
import { LeasedLoop, PlainLoop } from '../../src/engine/loop.ts';
import { log } from '../../src/log.ts';

const moment = (ms = 5) => new Promise((resolve) => setTimeout(resolve, ms));

/** A promise that is kept from outside. */
function later() {
  let keep = () => {};
  const kept = new Promise<void>((resolve) => (keep = resolve));
  return { kept, keep };
}

describe('what looks for work by itself', () => {
  const told: string[] = [];
  const { error } = log;
  beforeEach(() => {
    told.length = 0;
    log.error = ((about: { scope: string; piece?: string; err: Error }, words: string) =>
      told.push(
        [about.scope, about.piece, words, about.err.message].filter(Boolean).join(': '),
      )) as unknown as typeof log.error;
  });
  afterEach(() => {
    log.error = error;
  });

  it('looks once at a time; what comes meanwhile is looked at right after', async () => {
    let looks = 0;
    let going = 0;
    let most = 0;
    const loop = new PlainLoop('looking', async () => {
      looks += 1;
      most = Math.max(most, ++going);
      await moment(10);
      going -= 1;
    });
    for (let i = 0; i < 20; i++) loop.poke();
    await moment(60);
    expect([looks, most]).to.deep.equal([2, 1]);
    await loop.stop();
  });

  it('goes on by itself after it was started, and not before', async () => {
    let looks = 0;
    const loop = new PlainLoop('looking', async () => {
      looks += 1;
    });
    await moment(20);
    expect(looks).to.equal(0);
    loop.start(2);
    await moment(60);
    expect(looks).to.be.greaterThan(3);
    await loop.stop();
    const before = looks;
    await moment(30);
    expect(looks, 'after it was stopped').to.equal(before);
  });

  it('nudged, it looks at once where it looks by itself, and leaves it to others where it does not', async () => {
    let looks = 0;
    const loop = new PlainLoop('looking', async () => {
      looks += 1;
    });
    loop.nudge();
    await moment();
    expect(looks).to.equal(0);
    loop.start(60_000);
    await moment();
    loop.nudge();
    await moment();
    expect(looks).to.equal(2);
    await loop.stop();
    loop.nudge();
    await moment();
    expect(looks).to.equal(2);
  });

  it('counts what fails, says so, looks less often, and forgets it with the first that works', async () => {
    let bad = true;
    let looks = 0;
    const loop = new PlainLoop('looking', async () => {
      looks += 1;
      if (bad) throw new Error('the other side is away');
    });
    loop.start(4);
    await moment(150);
    const { failures, problem } = loop.state();
    expect(failures).to.equal(looks).and.to.be.within(3, 8);
    expect(problem).to.include('the other side is away');
    expect(told).to.have.length(failures);
    expect(told[0]).to.equal('looking: looking failed: the other side is away');
    bad = false;
    loop.poke();
    await moment();
    expect(loop.state()).to.include({ failures: 0, problem: null });
    await loop.stop();
  });

  it('works a queue off with as many in hand as there is room for, each once', async () => {
    const queue = Array.from({ length: 25 }, (_, n) => n);
    const done: number[] = [];
    let most = 0;
    const loop: LeasedLoop<number> = new LeasedLoop<number>({
      name: 'queue',
      due: 'true',
      atOnce: 4,
      lease: async (room) => queue.splice(0, room),
      work: async (n) => {
        most = Math.max(most, loop.state().going);
        await moment(n % 3);
        done.push(n);
      },
      about: (n) => ({ piece: `${n}` }),
    });
    loop.poke();
    await moment(150);
    expect(done.toSorted((a, b) => a - b)).to.deep.equal(Array.from({ length: 25 }, (_, n) => n));
    expect(most).to.be.at.most(4);
    await loop.stop();
  });

  it('takes more only when as many places are free as it was told', async () => {
    const rooms: number[] = [];
    let left = 20;
    const loop: LeasedLoop<number> = new LeasedLoop<number>({
      name: 'many',
      atOnce: 4,
      takesAtLeast: 3,
      due: 'true',
      lease: async (room) => {
        if (left > 0) rooms.push(room);
        const taken = Math.min(left, room);
        left -= taken;
        return Array.from({ length: taken }, (_, n) => n);
      },
      work: async (n) => {
        await moment(2 + 3 * n);
      },
      about: () => ({}),
    });
    loop.poke();
    while (left > 0) await moment();
    await loop.stop();
    expect(Math.min(...rooms)).to.be.at.least(3);
    expect(rooms.length).to.be.lessThan(9);
  });

  it('a piece that fails is named in the log, and the next goes on', async () => {
    const queue = [1, 2, 3];
    const done: number[] = [];
    const loop = new LeasedLoop<number>({
      name: 'queue',
      due: 'true',
      atOnce: 1,
      lease: async (room) => queue.splice(0, room),
      work: async (n) => {
        if (n === 2) throw new Error('broken');
        done.push(n);
      },
      about: (n) => ({ piece: `${n}` }),
    });
    loop.poke();
    await moment(40);
    expect(done).to.deep.equal([1, 3]);
    expect(told).to.deep.equal(['queue: 2: a piece of work failed: broken']);
    expect(loop.state().failures, 'the looking itself went well').to.equal(0);
    await loop.stop();
  });

  it('asked to stop, it takes nothing more on and waits for what is in hand, as long as it may', async () => {
    const { kept, keep } = later();
    let leases = 0;
    const loop = new LeasedLoop<number>({
      name: 'queue',
      due: 'true',
      atOnce: 2,
      lease: async () => (leases++ === 0 ? [1] : []),
      work: () => kept,
      about: (n) => ({ piece: `${n}` }),
    });
    loop.start(1);
    await moment();
    let ended = false;
    const ending = loop.stop().then(() => {
      ended = true;
    });
    const before = leases;
    await moment(20);
    expect([ended, leases]).to.deep.equal([false, before]);
    await loop.stop(5);
    keep();
    await ending;
    expect(ended).to.equal(true);
    loop.poke();
    await moment();
    expect(leases).to.equal(before);
  });

  it('asks for all at once whether anything is due, and wakes those that have something; one that has just failed pauses', async () => {
    const looks: string[] = [];
    const idle = new PlainLoop('idle', async () => void looks.push('idle'), '1 = 2');
    const busy = new PlainLoop('busy', async () => void looks.push('busy'), '1 = 1');
    const broken = new PlainLoop(
      'broken',
      async () => {
        looks.push('broken');
        throw new Error('cannot');
      },
      '2 = 2',
    );
    const statements: string[] = [];
    const query = async ({ text }: { text: string }) => {
      statements.push(text.replace(/\s+/g, ' '));
      return { rows: [{ due: [false, true, true] }] };
    };
    const lookout = new Lookout({ query } as unknown as pg.Pool, [idle, busy, broken]);
    lookout.start();
    await moment();
    for (let i = 0; i < 3; i++) {
      lookout.loop.poke();
      await moment();
    }
    await Promise.all([lookout.loop, idle, busy, broken].map((loop) => loop.stop()));
    expect(new Set(statements)).to.deep.equal(new Set(['select array[1 = 2, 1 = 1, 2 = 2] as due']));
    // Each looks once as it is started.
    expect(looks.filter((look) => look !== 'busy').sort()).to.deep.equal(['broken', 'idle']);
    expect(looks.filter((look) => look === 'busy').length).to.be.greaterThan(3);
  });
});
