import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import fc from 'fast-check';
import pg from 'pg';
import { SAMPLE } from '../../src/core/source/sample.ts';
import { COUNT_DAYS } from '../../src/db/day-counts.sql.ts';
import { testDatabase } from '../stage/postgres.ts';

/** Half hours ago: around midnights too, in the hour that is not counted yet, and a hundred days back. */
const ago = fc.oneof(fc.nat(60), fc.nat(4800));
const doing = fc.oneof(
  fc.record({ does: fc.constant('come' as const), ago, sample: fc.boolean() }),
  fc.record({ does: fc.constantFrom('erase' as const, 'read again' as const), n: fc.nat(30) }),
  fc.record({ does: fc.constant('count' as const) }),
);

describe('how many arrivals a source has had, and people a business has', () => {
  let db: pg.Pool;
  before(async function () {
    this.timeout(60_000);
    db = new pg.Pool({ connectionString: await testDatabase(), max: 3 });
  });
  after(() => db.end());

  async function newSource(): Promise<string> {
    const [business, source] = [randomUUID(), randomUUID()];
    await db.query(
      `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'Wrenfield', 'GB', 'en-GB', 'Europe/London', now())`,
      [business],
    );
    await db.query(
      `insert into source (id, business_id, kind, name, key, settings, card, state, created_at) values ($1, $2, 'webhook', 'Form', $3, '{}', '{}', 'live', now())`,
      [source, business, source],
    );
    return source;
  }
  /** An arrival, and a person by it; a sample brings somebody who is merged into another at once. */
  const come = (source: string, halfHours: number, problem: string | null) =>
    db.query(
      `with brought as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at, is_person)
         select gen_random_uuid(), business_id, '', '', '', '', '{}', now() - $2::int * interval '30 minutes', now(), $3::text is null from source where id = $1)
       insert into arrival (id, business_id, source_id, received_at, headers, body, fields, where_from, state, problem, repeats)
       select gen_random_uuid(), business_id, id, now() - $2::int * interval '30 minutes', '{}', '', '[]', '{}', 'held', $3, 0 from source where id = $1`,
      [source, halfHours, problem],
    );
  const told = async (source: string) =>
    (
      await db.query<{ arrivals: number; people: number }>(
        'select arrivals_of(id) as arrivals, people_of(business_id) as people from source where id = $1',
        [source],
      )
    ).rows[0]!;
  const counted = async (source: string) =>
    (
      await db.query<{ arrivals: number; people: number }>(
        `select (select count(*)::int from arrival where source_id = s.id and problem is distinct from $2) as arrivals,
           (select count(*)::int from lead where business_id = s.business_id and is_person) as people from source s where id = $1`,
        [source, SAMPLE],
      )
    ).rows[0]!;

  it('is what counting them all comes to, whatever came, went or was read again before and after days were counted', async function () {
    this.timeout(60_000);
    await fc.assert(
      fc.asyncProperty(fc.array(doing, { minLength: 5, maxLength: 40 }), async (doings) => {
        const source = await newSource();
        for (const one of doings) {
          // What comes in has come in now: days that are counted already get nothing more.
          if (one.does === 'come') {
            await db.query('delete from arrival_day where source_id = $1', [source]);
            await db.query('delete from lead_day where business_id = (select business_id from source where id = $1)', [
              source,
            ]);
            await come(source, one.ago, one.sample ? SAMPLE : null);
          } else if (one.does === 'count') await db.query(COUNT_DAYS);
          else {
            const nth = `(select id from arrival where source_id = $1 order by received_at, id offset $2 limit 1)`;
            const person = `(select l.id from lead l join source s on s.business_id = l.business_id where s.id = $1 order by l.created_at, l.id offset $2 limit 1)`;
            // Merged with somebody who came earlier, or parted again.
            for (const what of one.does === 'erase'
              ? [`delete from arrival where id = ${nth}`, `delete from lead where id = ${person}`]
              : [
                  `update arrival set problem = null, state = 'read' where id = ${nth}`,
                  `update lead set is_person = not is_person, created_at = created_at - interval '1 day' where id = ${person}`,
                ])
              await db.query(what, [source, one.n]);
          }
          expect(await told(source)).to.deep.equal(await counted(source));
        }
      }),
      { numRuns: 30 },
    );
  });

  it('counts a day once it is over by an hour, and not before; whoever is erased meanwhile is not counted', async () => {
    const source = await newSource();
    for (const halfHours of [0, 1, 60, 61, 200]) await come(source, halfHours, null);
    const erasing = await db.connect();
    try {
      await erasing.query('begin');
      await erasing.query(
        `delete from arrival where id = (select id from arrival where source_id = $1 order by received_at limit 1)`,
        [source],
      );
      const counting = db.query(COUNT_DAYS);
      await new Promise((resolve) => setTimeout(resolve, 100));
      await erasing.query('commit');
      await counting;
    } finally {
      erasing.release();
    }
    const { rows } = await db.query<{ n: number; newest: boolean }>(
      `select sum(n)::int as n, max(day) < (now() at time zone 'UTC')::date as newest from arrival_day where source_id = $1`,
      [source],
    );
    expect(rows[0]!.newest).to.equal(true);
    expect(rows[0]!.n).to.be.within(1, 2);
    expect(await told(source)).to.deep.equal({ arrivals: 4, people: 5 });
  });
});
