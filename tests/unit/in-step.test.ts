import { expect } from 'chai';
import { firstFree } from '../../src/core/appointments/first-free.ts';
import { inStep, type Standing } from '../../src/core/appointments/in-step.ts';

describe('two calendars in step', () => {
  const at = (start: number, title = 'Call'): Standing => ({ title, start, end: start + 30 });

  it('whatever was changed here holds; what was only changed there is followed, but for what is agreed elsewhere', () => {
    expect(inStep(at(1), at(1), at(1), false)).to.equal('same');
    expect(inStep(at(1), at(1), at(2), false)).to.equal('move here');
    expect(inStep(at(1), at(1), null, false)).to.equal('take out here');
    expect(inStep(at(3), at(1), at(2), false)).to.equal('write there');
    expect(inStep(at(3), at(1), null, false)).to.equal('write there');
    expect(inStep(at(1, 'Call Ada'), at(1), at(1), false)).to.equal('write there');
    expect(inStep(null, at(1), at(2), false)).to.equal('take out there');
    expect(inStep(null, at(1), null, false)).to.equal('same');
    expect(inStep(at(1), at(1), at(2), true)).to.equal('write there');
    expect(inStep(at(1), at(1), null, true)).to.equal('write there');
    expect(inStep(at(1), at(1), at(1), true)).to.equal('same');
    // What is called otherwise there is theirs to call.
    expect(inStep(at(1), at(1), at(1, 'Ring Ada back'), false)).to.equal('same');
  });

  it('followed to the end, both say the same, whatever happens in whichever order', () => {
    let seed = 11;
    const next = (n: number) => {
      seed = (seed * 48271) % 2147483647;
      return seed % n;
    };
    for (let round = 0; round < 2000; round++) {
      const fixed = next(3) === 0;
      let here: Standing | null = at(1);
      let copy: Standing | null = at(1);
      let there: Standing | null = at(1);
      for (let n = 0; n < 6; n++) {
        if (next(3) === 0 && here) here = next(4) === 0 ? null : at(next(5));
        if (next(3) === 0 && there) there = next(4) === 0 ? null : at(next(5));
        // A look; between any two of them anything may happen.
        if (!copy) continue;
        switch (inStep(here, copy, there, fixed)) {
          case 'move here':
            here = { ...here!, start: there!.start, end: there!.end };
            copy = here;
            break;
          case 'take out here':
            here = null;
            copy = null;
            break;
          case 'write there':
            there = here;
            copy = here;
            break;
          case 'take out there':
            there = null;
            copy = null;
            break;
          case 'same':
            break;
        }
        expect(there === null, `${round}`).to.equal(here === null);
        if (here && there) expect([there.start, there.end]).to.deep.equal([here.start, here.end]);
      }
    }
  });

  it('the first free time is past whatever overlaps, in whatever order that is given', () => {
    const taken = [
      { start: 60, end: 90 },
      { start: 0, end: 30 },
      { start: 25, end: 45 },
    ];
    expect(firstFree(taken, 0, 10)).to.equal(45);
    expect(firstFree(taken, 0, 15)).to.equal(45);
    expect(firstFree(taken, 0, 16)).to.equal(90);
    expect(firstFree(taken, 90, 16)).to.equal(90);
    expect(firstFree([], 5, 16)).to.equal(5);
    // A long one that began long before.
    expect(
      firstFree(
        [
          { start: 0, end: 100 },
          { start: 10, end: 20 },
        ],
        15,
        5,
      ),
    ).to.equal(100);
  });
});
