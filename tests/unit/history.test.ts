import { expect } from 'chai';
import fc from 'fast-check';
import { type History, noHistory, noted, redone, undone } from '../../src/client/history.ts';

const TYPED = { pauseMs: 1000, wholeMs: 5000, most: 5 };

/** A text somebody works at. */
class Desk {
  history: History<string> = noHistory();
  value = '';
  at = 0;
  write(value: string, kind = '', after = 0, anew = false) {
    this.at += after;
    this.history = noted(this.history, this.value, { kind, at: this.at, anew }, TYPED);
    this.value = value;
  }
  go(to: { history: History<string>; value: string } | null): boolean {
    if (!to) return false;
    this.history = to.history;
    this.value = to.value;
    return true;
  }
  undo = () => this.go(undone(this.history, this.value));
  redo = () => this.go(redone(this.history, this.value));
}

describe('what can be taken back', () => {
  it('letters typed in one go are one thing; a pause, another place, or much at once begins anew', () => {
    const desk = new Desk();
    desk.write('a', 'name');
    desk.write('ab', 'name', 900);
    desk.write('abc', 'name', 900);
    desk.undo();
    expect(desk.value).to.equal('');
    desk.redo();
    desk.write('abcd', 'name', 1100);
    desk.write('abcd!', 'note', 10);
    desk.write('everything', 'note', 10, true);
    const back: string[] = [];
    while (desk.undo()) back.push(desk.value);
    expect(back).to.deep.equal(['abcd!', 'abcd', 'abc', '']);
  });
  it('who types on and on can take back the last five seconds of it', () => {
    const desk = new Desk();
    for (let n = 0; n < 8; n++) desk.write('x'.repeat(n + 1), 'name', 900);
    desk.undo();
    expect(desk.value).to.equal('x'.repeat(6));
  });
  it('things without a kind are never one', () => {
    const desk = new Desk();
    desk.write('a');
    desk.write('b');
    desk.undo();
    expect(desk.value).to.equal('a');
  });
  it('whatever is done, taken back and done again in between: it is as if each stood in a row, and one goes along it', () => {
    const step = fc.oneof(
      fc.constant('undo' as const),
      fc.constant('redo' as const),
      fc.string({ maxLength: 3 }).map((to) => ({ to })),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        const desk = new Desk();
        let row = [''];
        let here = 0;
        for (const step of steps) {
          if (step === 'undo') {
            expect(desk.undo()).to.equal(here > 0);
            here = Math.max(0, here - 1);
          } else if (step === 'redo') {
            expect(desk.redo()).to.equal(here < row.length - 1);
            here = Math.min(row.length - 1, here + 1);
          } else {
            desk.write(step.to);
            row = [...row.slice(0, here + 1), step.to];
            here += 1;
            // No further back than is kept.
            if (here > TYPED.most) {
              row = row.slice(1);
              here -= 1;
            }
          }
          expect(desk.value).to.equal(row[here]);
        }
      }),
    );
  });
});
