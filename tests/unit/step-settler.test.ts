import { expect } from 'chai';
import type pg from 'pg';
import { RefusedWork } from '../../src/core/workflow/refused-work.ts';
import type { StepRow } from '../../src/db/hot/rows.ts';
import { StepSettler } from '../../src/db/hot/step-settler.ts';

describe('steps on record that come together', () => {
  it('share a transaction; when one cannot be done the others are done at once, without it', async () => {
    let transactions = 0;
    const query = async (text: string, values?: string[]) => {
      if (text === 'begin') transactions += 1;
      return { rows: text.startsWith('insert') ? (JSON.parse(values![0]!) as StepRow[]) : [] };
    };
    const pool = { connect: async () => ({ query, release() {} }) } as unknown as pg.Pool;
    const settler = new StepSettler(pool);
    const settle = (run: string, work: () => Promise<{ detail: string }>) =>
      settler.settle({
        row: { run_id: run, step_id: 's', attempts: [] } as unknown as StepRow,
        holder: 'h',
        shared: '',
        work,
      });
    const done = (detail: string) => async () => ({ detail });
    const all = [settle('a', done('one')), settle('b', done('two')), settle('c', done('three'))];
    expect((await Promise.all(all)).map((settled) => settled?.detail)).to.deep.equal(['one', 'two', 'three']);
    expect(transactions).to.equal(1);

    const refused = settle('b', async () => {
      throw new RefusedWork('The sheet of this step is no longer there.');
    });
    const [first, second, third] = await Promise.allSettled([
      settle('a', done('one')),
      refused,
      settle('c', done('three')),
    ]);
    expect([first!.status, second!.status, third!.status]).to.deep.equal(['fulfilled', 'rejected', 'fulfilled']);
    expect((second as PromiseRejectedResult).reason).to.be.instanceOf(RefusedWork);
    // Once together and once each: none of them is tried again and again.
    expect(transactions).to.equal(1 + 1 + 3);
  });
});
