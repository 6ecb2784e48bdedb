import { expect } from 'chai';
import fc from 'fast-check';
import {
  type ConsentState,
  SAID_BY,
  type SaidBy,
  type Statement,
  standsAs,
} from '../../src/core/consent/precedence.ts';

const said = (...all: [SaidBy, ConsentState][]): Statement[] =>
  all.map(([saidBy, state], i) => ({ saidBy, state, at: i }));

describe('which of all that was said about being written to counts', () => {
  const TABLE: [string, Statement[], ReturnType<typeof standsAs>][] = [
    ['nobody ever asked', said(), 'unknown'],
    ['a source says it of everybody', said(['standing', 'given']), 'given'],
    [
      'they left it unticked, then a list claims their yes',
      said(['themselves', 'unticked'], ['standing', 'given']),
      'unknown',
    ],
    [
      'a list claims their yes, then they leave it unticked',
      said(['standing', 'given'], ['themselves', 'unticked']),
      'unknown',
    ],
    [
      'they wrote STOP, then a list claims their yes',
      said(['themselves', 'withdrawn'], ['standing', 'given']),
      'withdrawn',
    ],
    [
      'they wrote STOP, then a colleague’s row says yes',
      said(['themselves', 'withdrawn'], ['reported', 'given']),
      'withdrawn',
    ],
    [
      'they left it unticked, then a colleague’s row says yes',
      said(['themselves', 'unticked'], ['reported', 'given']),
      'unknown',
    ],
    [
      'a row says they did not tick, the source says all did',
      said(['reported', 'unticked'], ['standing', 'given']),
      'unknown',
    ],
    [
      'a list, a STOP, and their own yes after it',
      said(['standing', 'given'], ['themselves', 'withdrawn'], ['themselves', 'given']),
      'given',
    ],
    ['their own yes, then a form left unticked', said(['themselves', 'given'], ['themselves', 'unticked']), 'given'],
    ['left unticked, then ticked', said(['themselves', 'unticked'], ['themselves', 'given']), 'given'],
    [
      'yes, no, and another list',
      said(['themselves', 'given'], ['themselves', 'withdrawn'], ['standing', 'given'], ['reported', 'given']),
      'withdrawn',
    ],
    ['a row says yes, a later row says no', said(['reported', 'given'], ['reported', 'withdrawn']), 'withdrawn'],
  ];
  for (const [name, all, expected] of TABLE) it(`${name}: ${expected}`, () => expect(standsAs(all)).to.equal(expected));

  const statement: fc.Arbitrary<Statement> = fc.record({
    saidBy: fc.constantFrom(...SAID_BY),
    state: fc.constantFrom('given', 'unticked', 'withdrawn'),
    at: fc.nat(50),
  });
  const history = fc.array(statement, { maxLength: 12 });

  it('nobody else’s word, whenever it comes, undoes what they have said themselves', () => {
    fc.assert(
      fc.property(history, statement, fc.nat(12), (all, more, at) => {
        fc.pre(more.saidBy !== 'themselves' && all.some((statement) => statement.saidBy === 'themselves'));
        const later = [...all.slice(0, at), more, ...all.slice(at)];
        expect(standsAs(later)).to.equal(standsAs(all));
      }),
    );
  });

  it('their own newest yes or no is what counts, whatever stands around it', () => {
    fc.assert(
      fc.property(history, fc.constantFrom('given' as const, 'withdrawn' as const), (all, state) => {
        expect(standsAs([...all, { saidBy: 'themselves', state, at: 1000 }])).to.equal(state);
      }),
    );
  });

  it('a box left unticked never makes a yes, and takes back none of their own', () => {
    fc.assert(
      fc.property(history, fc.constantFrom(...SAID_BY), (all, saidBy) => {
        const before = standsAs(all);
        const after = standsAs([...all, { saidBy, state: 'unticked', at: 1000 }]);
        if (after === 'given') expect(before).to.equal('given');
        if (all.some((statement) => statement.saidBy === 'themselves' && statement.state !== 'unticked'))
          expect(after).to.equal(before);
      }),
    );
  });
});
