import { expect } from 'chai';
import { EditQueue, type SavingState } from '../../src/islands/sheets/edit-queue.ts';
import type { RowEdits } from '../../src/islands/sheets/row-edits.ts';

const settled = () => new Promise((resolve) => setImmediate(resolve));
const edit = (id: string): RowEdits => ({ tabId: 'tab', edits: { remove: [id] } });
const idOf = ({ edits }: RowEdits) => edits.remove![0]!;

/** A server that answers when it is told to, and a clock in hand. */
class World {
  readonly asked: string[] = [];
  readonly states: SavingState[] = [];
  readonly told: string[] = [];
  stored = 0;
  later: (() => void) | null = null;
  private answer: ((error?: Error) => void) | null = null;
  readonly queue = new EditQueue({
    store: (edits) => {
      this.asked.push(idOf(edits));
      return new Promise<void>((resolve, reject) => {
        this.answer = (error) => (error ? reject(error) : resolve());
      });
    },
    changed: (state) => this.states.push(state),
    stored: () => {
      this.stored += 1;
    },
    failed: (words, forGood) => this.told.push(forGood ? `${words}, for good` : words),
    isForGood: (error) => (error as Error).message === 'refused',
    later: (_, what) => {
      this.later = what;
      return () => {
        this.later = null;
      };
    },
  });
  async answers(error?: string) {
    this.answer!(error ? new Error(error) : undefined);
    await settled();
  }
}

describe('the edits of a sheet', () => {
  it('are stored one after the other, in the order they were made', async () => {
    const world = new World();
    world.queue.add(edit('a'));
    world.queue.add(edit('b'), edit('c'));
    expect(world.asked).to.deep.equal(['a']);
    for (let n = 0; n < 3; n++) await world.answers();
    expect(world.asked).to.deep.equal(['a', 'b', 'c']);
    expect([world.stored, world.states.at(-1), world.queue.unsaved]).to.deep.equal([3, 'saved', false]);
  });
  it('what cannot be stored is tried again by itself, and nothing overtakes it', async () => {
    const world = new World();
    world.queue.add(edit('a'));
    await world.answers('no connection');
    expect([world.states.at(-1), world.told, world.queue.unsaved]).to.deep.equal(['failed', ['no connection'], true]);
    world.later!();
    await world.answers();
    expect([world.asked, world.states.at(-1)]).to.deep.equal([['a', 'a'], 'saved']);
  });
  it('the next edit tries at once, the first one first', async () => {
    const world = new World();
    world.queue.add(edit('a'));
    await world.answers('no connection');
    world.queue.add(edit('b'));
    expect(world.later, 'not a second time beside it').to.equal(null);
    await world.answers();
    await world.answers();
    expect(world.asked).to.deep.equal(['a', 'a', 'b']);
  });
  it('what is refused for good is told, and holds up nothing behind it', async () => {
    const world = new World();
    world.queue.add(edit('a'), edit('b'), edit('c'));
    await world.answers();
    await world.answers('refused');
    await world.answers();
    expect(world.asked).to.deep.equal(['a', 'b', 'c']);
    expect([world.stored, world.told]).to.deep.equal([2, ['refused, for good']]);
    expect([world.states.at(-1), world.queue.unsaved]).to.deep.equal(['saved', false]);
  });
});
