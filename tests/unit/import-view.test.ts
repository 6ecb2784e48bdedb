import { expect } from 'chai';
import {
  firstWishes,
  type ImportView,
  isBusy,
  peopleToBring,
  remainingMs,
  whatWillHappen,
} from '../../src/sources/import/import-view.ts';

const view = (change: Partial<ImportView>): ImportView => ({
  state: 'ready',
  fileName: 'autumn.csv',
  problem: null,
  rows: 1300,
  columns: [],
  headerRow: 1,
  tab: null,
  counts: { good: 1200, known: 150, duplicate: 60, refused: 40 },
  checked: true,
  workflowName: null,
  perMinute: 60,
  done: 0,
  total: 0,
  startedAt: null,
  finishedAt: null,
  workflows: [{ id: 'w1', name: 'Summer camp' }],
  lists: [
    { id: 'l1', name: 'Newsletter', asks: true },
    { id: 'l2', name: 'Parents', asks: false },
  ],
  listName: null,
  messages: 0,
  ...change,
});
const wishes = { workflowId: '', perMinute: 60, withDuplicates: false, listId: '', proven: false };

describe('an import as its panel reads it', () => {
  it('brings in the good rows, those who stand twice if wished, and of a stopped one what is left', () => {
    expect(peopleToBring(view({}), false)).to.equal(1200);
    expect(peopleToBring(view({}), true)).to.equal(1260);
    expect(peopleToBring(view({ state: 'stopped', total: 1200, done: 350 }), true)).to.equal(850);
    expect(peopleToBring(view({ counts: null }), true)).to.equal(0);
  });

  it('says how long it takes by its pace, or by the pace it has had so far; nothing while that cannot be known', () => {
    const start = Date.parse('2026-11-27T10:00:00Z');
    const running = view({ state: 'running', total: 1200, done: 300, startedAt: '2026-11-27T10:00:00Z' });
    expect(remainingMs({ ...running, workflowName: 'Summer camp' }, start + 1)).to.equal(15 * 60_000);
    expect(remainingMs(running, start + 10_000)).to.be.closeTo(30_000, 1);
    expect(remainingMs({ ...running, done: 0 }, start + 10_000)).to.equal(0);
    expect(remainingMs({ ...running, startedAt: null }, start)).to.equal(0);
  });

  it('says before it is done what pressing the button does, and that messages cannot be called back', () => {
    const said = (change: Partial<typeof wishes>) => whatWillHappen(view({}), { ...wishes, ...change });
    expect(said({})).to.equal('1,200 people will be recorded as leads. Nobody is written to, and you can undo it.');
    expect(said({ workflowId: 'w1', withDuplicates: true })).to.equal(
      '"Summer camp" will run for 1,260 people, and they will be written to as it says. This cannot be called back.',
    );
    expect(said({ listId: 'l1' })).to.equal(
      '1,200 people will be recorded as leads. Then they are put on Newsletter, and asked by email to confirm.',
    );
    expect(said({ listId: 'l1', proven: true })).to.equal(
      '1,200 people will be recorded as leads. Then they are put on Newsletter.',
    );
  });

  it('goes on with a stopped one as it was begun, also after the page was left', () => {
    const stopped = view({ state: 'stopped', workflowName: 'Summer camp', perMinute: 20, listName: 'Parents' });
    expect(firstWishes(stopped, '')).to.include({ workflowId: 'w1', perMinute: 20, listId: 'l2' });
    expect(firstWishes(view({}), 'l1')).to.include({ workflowId: '', listId: 'l1' });
  });

  it('is looked at often while it moves, and seldom when it waits for somebody', () => {
    expect(isBusy(view({ state: 'reading' }), false)).to.equal(true);
    expect(isBusy(view({ state: 'ready', checked: false }), true)).to.equal(true);
    expect(isBusy(view({ state: 'ready', checked: false }), false)).to.equal(false);
    expect(isBusy(view({ state: 'refused', checked: false }), true)).to.equal(false);
    expect(isBusy(view({ state: 'undone', checked: false }), true)).to.equal(false);
  });
});
