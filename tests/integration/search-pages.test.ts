import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import pg from 'pg';
import { EVERYBODY, type LeadChoice } from '../../src/core/people/lead-choice.ts';
import { ChosenLeads } from '../../src/engine/choosing/chosen-leads.ts';
import { scopeOf } from '../../src/engine/choosing/question-sql.ts';
import { testDatabase } from '../stage/postgres.ts';

/** More than one look goes through. */
const LEADS = 4500;

describe('words looked for among thousands', () => {
  let db: pg.Pool;
  const [business, list] = [randomUUID(), randomUUID()];
  before(async function () {
    this.timeout(60_000);
    db = new pg.Pool({ connectionString: await testDatabase(), max: 3 });
    await db.query(
      `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'Wrenfield', 'GB', 'en-GB', 'UTC', now())`,
      [business],
    );
    await db.query(`insert into nurture_list (id, business_id, name, created_at) values ($1, $2, 'News', now())`, [
      list,
      business,
    ]);
    // Every third is an Ada; every thousandth has a family of their own; two came in the same instant.
    await db.query(
      `with made as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
         select gen_random_uuid(), $1, case when n % 3 = 0 then 'Ada' else 'Bo' end, case when n % 1000 = 7 then 'Rarefield' else 'Venn' end,
           'p' || n || '@example.net', '', '{}', now(), now() - (n / 2) * interval '1 minute' from generate_series(1, $3::int) n returning id, first_name)
       insert into list_member (list_id, lead_id, state, how, joined_at, changed_at)
       select $2, id, 'active', 'test', now() - random() * interval '1 year', now() from made`,
      [business, list, LEADS],
    );
  });
  after(() => db.end());

  const choice = (more: Partial<LeadChoice>): LeadChoice => ({ ...EVERYBODY, ...more });
  const ORDERS = {
    heard: 'l.last_arrival_at desc, l.id desc',
    id: 'l.id',
    joined: 'm.joined_at desc, m.lead_id desc',
  } as const;

  for (const search of ['rarefield', 'ada', 'bo rare', 'p44', 'nobody at all'])
    for (const order of ['heard', 'id', 'joined'] as const)
      it(`“${search}”, ${order === 'joined' ? 'of a list' : 'of all'}, by ${order}: page after page, each once and in order`, async () => {
        const ofList = order === 'joined' ? { list: { id: list, state: null } } : {};
        const chosen = (await ChosenLeads.open(
          db,
          choice({ search, ...ofList }),
          await scopeOf(db, business, Date.now()),
        ))!;
        const found: string[] = [];
        for (let after: string | null = null; ; ) {
          const page: { ids: string[]; more: boolean } = await chosen.page(order, after, 400);
          found.push(...page.ids);
          after = page.ids.at(-1) ?? null;
          if (!page.more) break;
        }
        const words = search.split(' ').map((_, i) => `l.found_by like '%' || $${i + 2} || '%'`);
        const { rows } = await db.query<{ id: string }>(
          `select l.id from lead l join list_member m on m.lead_id = l.id where l.business_id = $1 and ${words.join(' and ')} order by ${ORDERS[order]}`,
          [business, ...search.split(' ')],
        );
        expect(found).to.deep.equal(rows.map(({ id }) => id));
        expect(await chosen.count()).to.equal(rows.length);
      });
});
