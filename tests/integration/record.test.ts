import { expect } from 'chai';
import pg from 'pg';
import type { RecordRow } from '../../src/app/account/record.ts';
import { prepareDatabase } from '../../src/db/prepare.ts';
import type { Coordinator } from '../stage/flow.ts';
import { testDatabase } from '../stage/postgres.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { type Stage, signedIn } from '../stage/stage.ts';

describe('the trail of who changed what', () => {
  describe('in the database', function () {
    this.timeout(60_000);
    let db: pg.Pool;
    const [one, two] = ['01999999-0000-7000-8000-0000000000a1', '01999999-0000-7000-8000-0000000000a2'];
    before(async () => {
      db = new pg.Pool({ connectionString: await testDatabase(), max: 4 });
    });
    after(() => db.end());
    beforeEach(async () => {
      await untouched('delete from audit; delete from audit_chain; delete from business');
      for (const id of [one, two])
        await db.query(
          `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'B', 'GB', 'en-GB', 'UTC', now())`,
          [id],
        );
      for (let n = 0; n < 12; n++) await note(n % 3 === 0 ? two : one, n);
      await db.query('select seal_audit()');
    });
    const note = (business: string, n: number) =>
      db.query(
        `insert into audit (id, business_id, at, action, subject, detail) values (gen_random_uuid(), $1, now() - interval '200 days' + $2::int * interval '1 day', 'list.create', 'x', jsonb_build_object('name', 'N' || $2::int))`,
        [business, n],
      );
    /** As somebody who is at the database itself and turns off what guards it. */
    const untouched = async (sql: string) => {
      const client = await db.connect();
      try {
        await client.query(`set session_replication_role = replica`);
        await client.query(sql);
        await client.query(`set session_replication_role = origin`);
      } finally {
        client.release();
      }
    };
    const broken = async (business = one) => {
      const { rows } = await db.query<{ no: string | null }>('select audit_broken($1) as no', [business]);
      return rows[0]!.no === null ? null : Number(rows[0]!.no);
    };

    it('is chained for each business by itself, whoever seals it and however often', async () => {
      expect([await broken(one), await broken(two)]).to.deep.equal([null, null]);
      await Promise.all(Array.from({ length: 20 }, (_, n) => note(one, n)));
      await Promise.all(Array.from({ length: 4 }, () => db.query('select seal_audit()')));
      const { rows } = await db.query('select no::int, seal from audit where business_id = $1 order by no', [one]);
      expect(rows.map((row) => row.no)).to.deep.equal(Array.from({ length: 28 }, (_, n) => n + 1));
      expect(new Set(rows.map((row) => row.seal)).size).to.equal(28);
      expect(await broken()).to.equal(null);
    });

    it('is not changed or taken out by anything that goes the usual way', async () => {
      for (const sql of [
        `update audit set action = 'list.remove'`,
        `update audit set at = at - interval '1 day'`,
        `update audit set person_id = gen_random_uuid()`,
        `update audit set detail = '{"name": "Another"}'`,
        `update audit set seal = 'x'`,
        `update audit set no = no + 1`,
        `update audit set detail_hash = 'x'`,
        `delete from audit`,
      ]) {
        const said = await db.query(sql).then(
          () => '',
          (error: Error) => error.message,
        );
        expect(said, sql).to.match(/are not (changed|taken out)/);
      }
      expect(await broken()).to.equal(null);
    });

    for (const [what, sql, at] of [
      ['a note was changed', `update audit set action = 'list.remove' where business_id = '${one}' and no = 3`, 3],
      [
        'its words were changed',
        `update audit set detail = '{"name": "Another"}' where business_id = '${one}' and no = 4`,
        4,
      ],
      ['one was taken out', `delete from audit where business_id = '${one}' and no = 5`, 6],
      ['the first was taken out', `delete from audit where business_id = '${one}' and no = 1`, 2],
      ['the last was taken out', `delete from audit where business_id = '${one}' and no = 8`, 8],
      ['all were taken out', `delete from audit where business_id = '${one}'`, 8],
      [
        'two changed places',
        `update audit set no = 9 - no, action = action where business_id = '${one}' and no in (4, 5)`,
        4,
      ],
      ['its end was forgotten', `delete from audit_chain where business_id = '${one}'`, 0],
    ] as const)
      it(`shows that ${what}, by whoever was at the database itself`, async () => {
        await untouched(sql);
        expect(await broken()).to.equal(at);
        expect(await broken(two)).to.equal(null);
      });

    it('stays whole when the words of a note go with somebody who is erased', async () => {
      await db.query(`update audit set detail = '{}' where business_id = $1 and no in (2, 8)`, [one]);
      expect(await broken()).to.equal(null);
    });

    it('stays whole when the oldest are no longer kept, and goes on from there', async () => {
      await db.query('update business set keeps_notes_months = 6 where id = $1', [one]);
      await untouched(`update audit set at = at + interval '1 hour' where false`);
      const { rows } = await db.query<{ gone: number }>('select retire_audit() as gone');
      const kept = await db.query('select no::int, at from audit where business_id = $1 order by no', [one]);
      expect(rows[0]!.gone).to.be.greaterThan(0);
      expect(kept.rows.length + rows[0]!.gone).to.equal(8);
      expect(await broken()).to.equal(null);
      await note(one, 199);
      await db.query('select seal_audit()');
      expect(await broken()).to.equal(null);
      expect((await db.query('select from audit where business_id = $1', [two])).rowCount).to.equal(4);
      // What is kept is kept: the way out is shut again.
      await db.query('delete from audit').then(
        () => expect.fail('taken out'),
        (error: Error) => expect(error.message).to.match(/not taken out/),
      );
    });

    it('is made whole of notes written before there was a chain', async () => {
      await untouched(`update audit set no = null, seal = null; delete from audit_chain`);
      await prepareDatabase((db.options as { connectionString: string }).connectionString);
      await db.query('select seal_audit()');
      expect(await broken()).to.equal(null);
    });
  });

  describe('on its page', function () {
    this.timeout(30_000);
    let stage: Stage;
    let oona: Coordinator;
    before(async () => {
      ({ stage } = await sharedStage());
      oona = await signedIn(stage);
    });
    const read = async (query = '') =>
      (await oona.call<{ rows: RecordRow[]; more: boolean }>('GET', `/api/record?${query}`)).body;

    it('says what was changed from what to what, narrowed down by person, thing and day, page after page', async () => {
      const { id } = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Trail news' })).body;
      await oona.call('DELETE', `/api/lists/${id}`);
      const [removed, made] = (await read('about=list')).rows;
      expect([removed!.words, made!.words]).to.deep.equal([
        'removed the list “Trail news”',
        'made the list “Trail news”',
      ]);
      expect(made!.who).to.equal('Oona Pell');
      const { personId } = (
        await stage.db.query<{ personId: string }>(
          `select id as "personId" from person where email = 'tomas@wrenfield.example'`,
        )
      ).rows[0]!;
      expect((await read(`person=${personId}&about=list`)).rows).to.deep.equal([]);
      expect((await read('about=list&to=2020-01-01')).rows).to.deep.equal([]);
      expect((await read('from=nonsense&person=x&about=constructor')).rows.length).to.be.greaterThan(1);
      const seen: string[] = [];
      for (let before = ''; ; ) {
        const page = await read(`before=${before}`);
        seen.push(...page.rows.map((row) => row.id));
        if (!page.more) break;
        before = page.rows.at(-1)!.id;
      }
      expect(new Set(seen).size).to.equal(seen.length);
    });

    it('is taken out as a file, with the seals', async () => {
      await stage.db.query('select seal_audit()');
      const file = await fetch(`${stage.url}/api/record/file?about=list`, { headers: { cookie: oona.cookie } });
      const text = await file.text();
      expect(text)
        .to.include('Trail news')
        .and.to.match(/[0-9a-f]{64}/);
      const page = await (await fetch(`${stage.url}/settings/record`, { headers: { cookie: oona.cookie } })).text();
      expect(page).to.match(/notes are as they were written/);
    });
  });
});
