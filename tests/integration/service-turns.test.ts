import { expect } from 'chai';
import pg from 'pg';
import { ServiceTurns } from '../../src/engine/services/service-turns.ts';
import { Pace } from '../../src/gateways/described/pace.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import type { Stage } from '../stage/stage.ts';

/** 1/10 s between two, in milliseconds. */
const STEP = 100;

describe('turns at a service that allows so many calls in a second', () => {
  let stage: Stage;
  let id: string;
  const pools: pg.Pool[] = [];
  before(async () => {
    ({ stage } = await sharedStage());
    // Of a business of its own: nothing else calls it.
    const { rows } = await stage.db.query<{ id: string }>(
      `insert into connection (id, business_id, kind, name, settings, report_key, report_secret, created_at)
       select gen_random_uuid(), id, 'service', 'Turns', '{"address":""}', 'turns-' || gen_random_uuid(), '', now() from business limit 1 returning id`,
    );
    id = rows[0]!.id;
  });
  after(async () => {
    await stage.db.query('delete from connection where id = $1', [id]);
    await Promise.all(pools.map((pool) => pool.end()));
  });
  const process = () => {
    const pool = new pg.Pool({ connectionString: stage.databaseUrl, max: 4 });
    pool.on('error', () => {});
    pools.push(pool);
    return { pool, turns: new ServiceTurns({ pool, now: Date.now }) };
  };
  const nextAt = async () =>
    (
      await stage.db.query<{ at: Date }>('select next_at as at from service_turn where connection_id = $1', [id])
    ).rows[0]?.at.getTime() ?? 0;

  it('are given out once each, however many processes ask at once', async () => {
    const [one, other] = [process(), process()];
    const began = Date.now();
    const asked = await Promise.all(
      Array.from({ length: 40 }, (_, n) => (n % 2 ? one : other).turns.take(id, 1000 / STEP, 60_000)),
    );
    expect(asked.every(({ taken }) => taken)).to.equal(true);
    // Forty beginnings need forty tenths of a second: none was given to two.
    expect((await nextAt()) - began).to.be.at.least(40 * STEP - 1);
    const waits = asked.map(({ wait }) => wait).sort((a, b) => a - b);
    expect(waits.at(-1)).to.be.greaterThan(20 * STEP);
  });

  it('one that would be too long in coming is not given out, and takes nobody’s', async () => {
    const { turns } = process();
    const before = await nextAt();
    const refused = await turns.take(id, 1000 / STEP, 0);
    expect(refused.taken).to.equal(false);
    expect(refused.wait).to.be.greaterThan(0);
    expect(await nextAt()).to.equal(before);
    const wait = await new Pace(turns, async () => {}).turn(id, { perSecond: 0.0001, atOnce: 0 });
    // Whoever comes again later is told when.
    if (wait !== null) expect(wait).to.be.greaterThan(0);
  });

  it('of what is no connection yet, and while the database is away, each process gives out its own', async () => {
    const { pool, turns } = process();
    const unknown = '01999999-0000-7000-8000-00000000aaaa';
    expect(await turns.take(unknown, 10, 1000)).to.deep.equal({ wait: 0, taken: true });
    expect((await turns.take(unknown, 10, 1000)).wait).to.be.greaterThan(0);
    await pool.end();
    pools.splice(pools.indexOf(pool), 1);
    expect(await turns.take(id, 10, 1000)).to.deep.equal({ wait: 0, taken: true });
  });
});
