import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import fc from 'fast-check';
import pg from 'pg';
import { rowByKey } from '../../src/db/hot/row-keys.sql.ts';
import { testDatabase } from '../stage/postgres.ts';

const WORDS = ['ada@example.org', ' Ada@Example.org ', 'bo@example.org', '', '  ', 'ÅSA', 'åsa', 'x'.repeat(20_000)];
const COLUMNS = ['c1', 'c2'];
const word = fc.constantFrom(...WORDS);
const cells = fc.record({ c1: word, c2: word }, { requiredKeys: [] });
const doing = fc.oneof(
  fc.record({ does: fc.constant('add' as const), rows: fc.array(cells, { minLength: 1, maxLength: 4 }) }),
  fc.record({ does: fc.constant('change' as const), n: fc.nat(20), cells }),
  fc.record({ does: fc.constant('move' as const), n: fc.nat(20), to: fc.nat(20) }),
  fc.record({ does: fc.constant('remove' as const), n: fc.nat(20) }),
  fc.record({ does: fc.constant('ask' as const), column: fc.constantFrom(...COLUMNS), word }),
);

describe('rows by a key', () => {
  let db: pg.Pool;
  let sheet: string;
  before(async function () {
    this.timeout(60_000);
    db = new pg.Pool({ connectionString: await testDatabase(), max: 3 });
    sheet = randomUUID();
    const business = randomUUID();
    await db.query(
      `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'Wrenfield', 'GB', 'en-GB', 'Europe/London', now())`,
      [business],
    );
    await db.query(`insert into sheet (id, business_id, name, created_at) values ($1, $2, 'People', now())`, [
      sheet,
      business,
    ]);
  });
  after(() => db.end());

  async function newTab(): Promise<string> {
    const tab = randomUUID();
    await db.query(
      `insert into sheet_tab (id, sheet_id, name, position, columns, created_at) values ($1, $2, 'Tab', 0, '[]', now())`,
      [tab, sheet],
    );
    return tab;
  }
  const add = (client: pg.Pool | pg.PoolClient, tab: string, from: number, rows: object[]) =>
    client.query(
      `insert into sheet_row (id, tab_id, position, cells, revision, updated_at)
       select gen_random_uuid(), $1, $2 + n, c, 0, now() from jsonb_array_elements($3) with ordinality x(c, n)`,
      [tab, from, JSON.stringify(rows)],
    );
  /** Every row read, as it was found before there were keys. */
  async function read(tab: string, column: string, asked: string): Promise<string | null> {
    const { rows } = await db.query<{ id: string }>(
      `select id from sheet_row where tab_id = $1 and lower(trim(cells ->> $2)) = lower(trim($3)) and trim($3) <> '' order by position, id limit 1`,
      [tab, column, asked],
    );
    return rows[0]?.id ?? null;
  }
  const nth = `(select id from sheet_row where tab_id = $1 order by position, id offset $2 limit 1)`;

  it('finds the row that reading all of them finds, whatever was added, changed, moved and removed before and after', async function () {
    this.timeout(60_000);
    await fc.assert(
      fc.asyncProperty(fc.array(doing, { maxLength: 25 }), async (all) => {
        const tab = await newTab();
        let at = 0;
        for (const one of all) {
          if (one.does === 'add') {
            await add(db, tab, at, one.rows);
            at += one.rows.length;
          } else if (one.does === 'change')
            await db.query(`update sheet_row set cells = cells || $3 where id = ${nth}`, [
              tab,
              one.n,
              JSON.stringify(one.cells),
            ]);
          else if (one.does === 'move')
            await db.query(`update sheet_row set position = $3 where id = ${nth}`, [tab, one.n, one.to]);
          else if (one.does === 'remove') await db.query(`delete from sheet_row where id = ${nth}`, [tab, one.n]);
          else expect(await rowByKey(db, tab, one.column, one.word)).to.equal(await read(tab, one.column, one.word));
        }
        for (const column of COLUMNS)
          for (const asked of WORDS)
            expect(await rowByKey(db, tab, column, asked)).to.equal(await read(tab, column, asked));
      }),
      { numRuns: 40 },
    );
  });

  it('the first to ask waits for who is in the midst of writing, and misses none of their rows', async () => {
    const tab = await newTab();
    const writer = await db.connect();
    await writer.query('begin');
    await add(writer, tab, 0, [{ c1: 'late@example.org' }]);
    const asked = rowByKey(db, tab, 'c1', 'late@example.org');
    let answered = false;
    void asked.then(() => (answered = true));
    await new Promise((resolve) => setTimeout(resolve, 150));
    expect(answered, 'not before it is known').to.equal(false);
    await writer.query('commit');
    writer.release();
    expect(await asked)
      .to.equal(await read(tab, 'c1', 'late@example.org'))
      .and.not.equal(null);
  });

  it('a tab that goes takes its keys along', async () => {
    const tab = await newTab();
    await add(db, tab, 0, [{ c1: 'gone@example.org' }]);
    await rowByKey(db, tab, 'c1', 'gone@example.org');
    await db.query('delete from sheet_tab where id = $1', [tab]);
    const { rows } = await db.query(
      'select (select count(*) from sheet_row_key where tab_id = $1) + (select count(*) from sheet_key where tab_id = $1) as n',
      [tab],
    );
    expect(Number(rows[0].n)).to.equal(0);
  });
});
