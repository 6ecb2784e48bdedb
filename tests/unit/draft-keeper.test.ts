import { expect } from 'chai';
import type { Definition } from '../../src/core/workflow/definition.ts';
import { DraftKeeper, type DraftState } from '../../src/islands/run-sheet/draft-keeper.ts';

/** A server and a clock one has in hand. */
class World {
  at = 0;
  readonly stored: { revision: number; name: string }[] = [];
  readonly shown: DraftState[] = [];
  private timers: { at: number; what: () => void }[] = [];
  private waiting: { good: () => void; bad: (error: Error) => void }[] = [];
  readonly keeper = new DraftKeeper(named('first'), 1, {
    store: (revision, draft) =>
      new Promise((resolve, reject) => {
        this.waiting.push({
          good: () => {
            this.stored.push({ revision, name: nameOf(draft) });
            resolve({ revision: revision + 1, findings: [] });
          },
          bad: reject,
        });
      }),
    isElsewhere: (error) => (error as Error).message === 'elsewhere',
    changed: (state) => this.shown.push(state),
    found: () => {},
    now: () => this.at,
    later: (ms, what) => {
      const timer = { at: this.at + ms, what };
      this.timers.push(timer);
      return () => {
        this.timers = this.timers.filter((one) => one !== timer);
      };
    },
  });

  async passes(ms: number) {
    this.at += ms;
    const due = this.timers.filter((timer) => timer.at <= this.at);
    this.timers = this.timers.filter((timer) => timer.at > this.at);
    for (const one of due) one.what();
    await settled();
  }
  /** How many saves are on their way. */
  get onTheWay(): number {
    return this.waiting.length;
  }
  async answers(error?: string) {
    const one = this.waiting.shift()!;
    if (error) one.bad(new Error(error));
    else one.good();
    await settled();
  }
  type = (name: string) => this.keeper.edit(() => named(name), 'name');
}
const named = (name: string) => ({ name }) as unknown as Definition;
const nameOf = (draft: Definition) => (draft as unknown as { name: string }).name;
const settled = () => new Promise((resolve) => setImmediate(resolve));

describe('the draft of a run sheet', () => {
  it('is stored once typing has stopped for a moment, as it stands then', async () => {
    const world = new World();
    world.type('a');
    await world.passes(300);
    world.type('ab');
    await world.passes(300);
    expect(world.onTheWay).to.equal(0);
    await world.passes(100);
    expect(world.keeper.state().saveState).to.equal('saving');
    await world.answers();
    expect(world.stored).to.deep.equal([{ revision: 1, name: 'ab' }]);
    expect(world.keeper.state()).to.include({ saveState: 'saved', revision: 2 });
    expect(world.keeper.unsaved).to.equal(false);
  });
  it('one save at a time: what is typed meanwhile goes with the next, on top of the first', async () => {
    const world = new World();
    world.type('a');
    await world.passes(400);
    world.type('ab');
    await world.passes(400);
    world.type('abc');
    await world.passes(400);
    expect(world.onTheWay).to.equal(1);
    await world.answers();
    expect(world.onTheWay).to.equal(1);
    expect(world.keeper.state().saveState).to.equal('saving');
    await world.answers();
    await world.passes(1000);
    expect(world.onTheWay).to.equal(0);
    expect(world.stored).to.deep.equal([
      { revision: 1, name: 'a' },
      { revision: 2, name: 'abc' },
    ]);
    expect(world.keeper.state().saveState).to.equal('saved');
  });
  it('what could not be stored is tried again, and nothing typed meanwhile is lost', async () => {
    const world = new World();
    world.type('a');
    await world.passes(400);
    await world.answers('no connection');
    expect(world.keeper.state()).to.include({ saveState: 'failed', problem: 'no connection' });
    expect(world.keeper.unsaved).to.equal(true);
    await world.passes(3000);
    world.type('ab');
    await world.answers('no connection');
    await world.passes(3000);
    await world.answers();
    expect(world.stored.at(-1)).to.deep.equal({ revision: 1, name: 'ab' });
    expect(world.keeper.state()).to.include({ saveState: 'saved', problem: '' });
  });
  it('changed by a colleague meanwhile, it is not tried again, and says so whatever is typed', async () => {
    const world = new World();
    world.type('a');
    await world.passes(400);
    await world.answers('elsewhere');
    await world.passes(10_000);
    expect(world.onTheWay).to.equal(0);
    world.type('ab');
    expect(world.keeper.state()).to.include({ saveState: 'elsewhere', problem: 'elsewhere' });
  });
  it('before it goes live all of it is stored, or why it could not be is said', async () => {
    const world = new World();
    world.type('a');
    const flushed = world.keeper.flush();
    await settled();
    await world.answers();
    await flushed;
    expect(world.stored).to.have.length(1);
    world.type('ab');
    const failed = world.keeper.flush().then(
      () => 'stored',
      (error: Error) => error.message,
    );
    await settled();
    await world.answers('elsewhere');
    expect(await failed).to.equal('elsewhere');
  });
  it('what is taken back is stored too; an edit that changes nothing is none', async () => {
    const world = new World();
    world.type('a');
    await world.passes(400);
    await world.answers();
    world.keeper.undo();
    expect(world.keeper.state()).to.include({ canUndo: false, canRedo: true, saveState: 'unsaved' });
    await world.passes(400);
    await world.answers();
    expect(world.stored.at(-1)!.name).to.equal('first');
    world.keeper.edit((before) => before);
    expect(world.keeper.unsaved).to.equal(false);
    world.keeper.redo();
    expect(nameOf(world.keeper.state().draft)).to.equal('a');
  });
});
