import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import type { LeadView } from '../../src/app/leads/get-lead.ts';
import type { BehindView } from '../../src/app/results/behind.ts';
import type { CostsView, LookedAt } from '../../src/app/results/costs.ts';
import type { NamesView } from '../../src/app/results/mark-names.ts';
import type { SideBySide } from '../../src/app/results/models.ts';
import type { RepliesView } from '../../src/app/results/replies.ts';
import type { SiteRow } from '../../src/app/results/sites.ts';
import type { StepResultsView } from '../../src/app/results/step-results.ts';
import type { WayView } from '../../src/app/results/way-through.ts';
import type { ShownRow, WhereFromView } from '../../src/app/results/where-from.ts';
import { MODELS } from '../../src/core/results/models.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { freshStep, momentOf, stepOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';
import { workbook } from '../stage/workbook.ts';

type Refused = { detail?: string; type?: string };

/** All that there can be: eight years back until today. */
const EVER = `from=${new Date(Date.now() - 3000 * 86_400_000).toISOString().slice(0, 10)}&to=${new Date(Date.now() + 86_400_000).toISOString().slice(0, 10)}`;
/** Names of what is summed, in credits and in hundredths. */
const SUMS = MODELS.flatMap((model) => [`by_${model}`, `money_${model}`]);

describe('results', function () {
  this.timeout(120_000);
  let stage: Stage;
  let oona: Coordinator;
  let business: string;
  before(async () => {
    stage = await openStage({ history: true });
    oona = await signedIn(stage);
    business = (await stage.db.query('select id from business')).rows[0].id;
    await reckoned();
  });
  after(() => stage.close());

  const reckoned = () =>
    until(
      'everybody to be reckoned',
      async () =>
        (await stage.db.query("select count(*)::int as n from result_due where due_at <= now() + interval '2 seconds'"))
          .rows[0].n === 0,
      60_000,
    );
  const all = async (query = ''): Promise<WhereFromView> =>
    (await oona.call<WhereFromView>('GET', `/api/results?${EVER}&${query}`)).body;
  const rows = <T extends Record<string, unknown>>(sql: string, values: unknown[] = []) =>
    stage.db.query<T>(sql, values);

  /** The days as they are kept, and as they are when everything is added up anew. */
  async function sumsAgree(): Promise<void> {
    const sums = SUMS.map((name) => `sum(${name})::text as ${name}`).join(', ');
    const plain = (basis: string, day: string) =>
      `select business_id, '${basis}' as basis, ${day} as day, origin_id, kind, currency, count(*) filter (where first and by_first > 0) as people, ${sums} from result_credit group by 1, 2, 3, 4, 5, 6`;
    const { rows: apart } = await rows(
      `with plain as (${plain('came', 'came_day')} union all ${plain('happened', 'day')}),
         kept as (select business_id, basis, day, origin_id, kind, currency, people, ${SUMS.map((name) => `${name}::text`).join(', ')} from result_day
           where people <> 0 or ${SUMS.map((name) => `${name} <> 0`).join(' or ')})
       (select 'missing' as which, * from plain except select 'missing', * from kept) union all (select 'too much', * from kept except select 'too much', * from plain) limit 5`,
    );
    expect(apart).to.deep.equal([]);
  }
  /** What the plain facts say of first touches, without anything of ours in between. */
  async function plainLeads(): Promise<Record<string, number>> {
    const { rows: counted } = await rows<{ campaign: string; n: number }>(
      `select coalesce(nullif(trim(t.where_from ->> 'campaign'), ''), nullif(trim(t.where_from ->> 'utm_campaign'), ''), '') as campaign, count(*)::int as n
       from lead l left join lateral (select where_from from touch where lead_id = l.id and at <= l.created_at order by at, id limit 1) t on true
       where l.business_id = $1 and l.is_person group by 1`,
      [business],
    );
    return Object.fromEntries(counted.map(({ campaign, n }) => [campaign, n]));
  }
  const byCampaign = (view: WhereFromView, of: (row: ShownRow) => number) =>
    Object.fromEntries(view.all.children.map((row) => [row.path[0]!, of(row)]));

  it('count every lead once, at its first touch, as the plain query does', async () => {
    const view = await all();
    expect(byCampaign(view, ({ leads }) => leads)).to.deep.equal(await plainLeads());
    expect(view.waiting).to.equal(0);
    await sumsAgree();
  });

  it('add up to the same whole in every model, in credits and in money to the penny', async () => {
    const { body } = await oona.call<SideBySide>('GET', `/api/results/models?${EVER}&goal=won`);
    for (const model of MODELS) expect(body.total[model]).to.be.closeTo(body.total.first, 1e-9);
    const money = await Promise.all(MODELS.map(async (model) => (await all(`model=${model}`)).all));
    const sumOf = (row: ShownRow): number =>
      row.children.length === 0 ? (row.money.GBP ?? 0) : row.children.reduce((sum, child) => sum + sumOf(child), 0);
    const { rows: won } = await rows<{ sum: string }>(
      `select sum(round(value * 100))::text as sum from deal d join stage s on s.id = d.stage_id where s.ends = 'won' and d.business_id = $1`,
      [business],
    );
    for (const row of money) {
      expect(sumOf(row)).to.equal(row.money.GBP);
      expect(row.money.GBP).to.equal(money[0]!.money.GBP);
      expect(row.money.GBP!).to.be.at.least(Number(won[0]!.sum));
    }
    expect(body.says).to.match(/disagree most/);
  });

  it('stay true through a hundred things that happen in any order', async () => {
    const { rows: people } = await rows<{ id: string }>(
      'select id from lead where business_id = $1 and is_person order by id limit 60',
      [business],
    );
    const kind = (
      await rows<{ id: string }>(
        `insert into outcome_kind (id, business_id, name, created_at) values (gen_random_uuid(), $1, 'Came to the concert', now()) returning id`,
        [business],
      )
    ).rows[0]!.id;
    let seed = 7;
    const random = (below: number) => {
      seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
      return Math.floor((seed / 2_147_483_648) * below);
    };
    const things: (() => Promise<unknown>)[] = [
      () =>
        rows(
          `insert into touch (id, business_id, lead_id, at, where_from) values (gen_random_uuid(), $1, $2, now() - $3 * interval '1 hour', $4)`,
          [
            business,
            someone(),
            random(2000),
            JSON.stringify({ campaign: ['spring', 'Spring ', 'piano-evenings'][random(3)], utm_source: 'poster' }),
          ],
        ),
      () =>
        rows(
          `insert into noted_outcome (id, business_id, kind_id, lead_id, key, at, amount, currency, noted_at) values (gen_random_uuid(), $1, $2, $3, $4, now() - $5 * interval '1 hour', $6, $7, now())
           on conflict (kind_id, key) do update set amount = excluded.amount, currency = excluded.currency, lead_id = excluded.lead_id`,
          [
            business,
            kind,
            someone(),
            `k${random(12)}`,
            random(900),
            `${random(40_000) / 100}`,
            ['GBP', 'EUR', 'USD'][random(3)],
          ],
        ),
      () => rows('delete from noted_outcome where kind_id = $1 and key = $2', [kind, `k${random(12)}`]),
      () =>
        rows(
          `update deal set stage_id = (select id from stage where pipeline_id = deal.pipeline_id and ends is not null order by random() limit 1), value = $2, closed_at = coalesce(closed_at, now())
           where id = (select id from deal where business_id = $1 and closed_at is not null offset $3 limit 1)`,
          [business, random(90_000) / 100, random(20)],
        ),
      () =>
        rows(`delete from touch where id = (select id from touch where lead_id = $1 and arrival_id is null limit 1)`, [
          someone(),
        ]),
      () =>
        rows(
          `insert into currency_rate (business_id, currency, day, rate) values ($1, 'EUR', $2, $3) on conflict (business_id, currency, day) do update set rate = excluded.rate`,
          [business, `2026-${String(1 + random(12)).padStart(2, '0')}-01`, 0.8 + random(20) / 100],
        ),
      () =>
        rows(`delete from currency_rate where business_id = $1 and day = $2`, [
          business,
          `2026-${String(1 + random(12)).padStart(2, '0')}-01`,
        ]),
      () =>
        rows(`update business set time_zone = $2 where id = $1`, [
          business,
          ['Europe/London', 'Pacific/Auckland', 'America/Los_Angeles'][random(3)],
        ]),
    ];
    const someone = () => people[random(people.length)]!.id;
    for (let n = 0; n < 120; n++) await things[n % 40 === 39 ? 7 : random(7)]!();
    await rows(`update business set time_zone = 'Europe/London' where id = $1`, [business]);
    await reckoned();
    await sumsAgree();
    const { rows: noted } = await rows<{ n: number; sum: string }>(
      `select count(*)::int as n, coalesce(sum(round(amount * 100)) filter (where currency = 'USD'), 0)::text as sum from noted_outcome where kind_id = $1`,
      [kind],
    );
    for (const model of MODELS) {
      const { all: row } = await all(`goal=own:${kind}&model=${model}`);
      expect(row.goal, model).to.be.closeTo(noted[0]!.n, 1e-9);
      // Without a rate they stay dollars, and are added to nothing else.
      expect(row.money.USD ?? 0).to.equal(Number(noted[0]!.sum));
    }
    // All of it reckoned anew from the facts gives the same.
    const before = await rows(`select * from result_day order by business_id, basis, day, origin_id, kind, currency`);
    await rows('insert into result_due (lead_id) select id from lead where is_person');
    await reckoned();
    const after = await rows(`select * from result_day order by business_id, basis, day, origin_id, kind, currency`);
    expect(after.rows).to.deep.equal(before.rows);
  });

  it('keep two leads that become one, and two again, as they are', async () => {
    const before = await all();
    const { rows: two } = await rows<{ id: string }>(
      `select l.id from lead l where l.business_id = $1 and l.is_person and exists (select from touch t where t.lead_id = l.id and t.where_from ->> 'campaign' = 'autumn-trial') order by l.id desc limit 2`,
      [business],
    );
    const [kept, gone] = two.map(({ id }) => id);
    expect((await oona.call('POST', `/api/leads/${kept}/merge`, { with: gone })).status).to.equal(200);
    await reckoned();
    expect((await all()).all.leads).to.equal(before.all.leads - 1);
    await sumsAgree();
    const { merges } = (await oona.call<LeadView>('GET', `/api/leads/${kept}`)).body;
    expect((await oona.call('POST', `/api/merges/${merges[0]!.id}/undo`)).status).to.equal(200);
    await reckoned();
    expect(byCampaign(await all(), ({ leads }) => leads)).to.deep.equal(byCampaign(before, ({ leads }) => leads));
    await sumsAgree();
  });

  it('count who was erased, and know nobody', async () => {
    const before = await all();
    const { rows: who } = await rows<{ id: string; name: string }>(
      `select l.id, trim(l.first_name || ' ' || l.last_name) as name from lead l join deal d on d.lead_id = l.id join stage s on s.id = d.stage_id
       where s.ends = 'won' and l.business_id = $1 and l.first_name <> '' order by l.id limit 1`,
      [business],
    );
    const { id, name } = who[0]!;
    expect((await oona.call('POST', `/api/leads/${id}/erase`, { name })).status).to.equal(200);
    await reckoned();
    const after = await all();
    expect([after.all.leads, after.all.sales, after.all.money]).to.deep.equal([
      before.all.leads,
      before.all.sales,
      before.all.money,
    ]);
    await sumsAgree();
    const path = encodeURIComponent('[]');
    const { body } = await oona.call<BehindView>('GET', `/api/results/people?${EVER}&kind=sales&path=${path}`);
    expect(body.rows.filter(({ leadId }) => leadId === null).map((row) => row.name)).to.include(
      'Somebody who was erased',
    );
    expect(body.total).to.be.closeTo(after.all.sales, 1e-9);
    expect(JSON.stringify(body)).not.to.include(id);
    // And when they are reckoned again, they are still there.
    await rows('insert into result_due (lead_id) values ($1)', [id]);
    await reckoned();
    expect((await all()).all.leads).to.equal(before.all.leads);
  });

  it('stay when their source is removed', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [freshStep('note', 'n', { text: 'x' })], team: [] } }),
    ]);
    await flow.send({ name: 'Via', email: 'via@example.org', utm_campaign: 'short-lived' });
    await flow.over('via@example.org');
    await reckoned();
    const before = await all('by=source');
    await oona.call('PUT', `/api/workflows/${flow.id}/pause`, {});
    expect((await oona.call('DELETE', `/api/sources/${flow.source.id}?agreed=1`)).status).to.be.oneOf([200, 409]);
    await rows('update source set removed_at = now() where id = $1', [flow.source.id]);
    await reckoned();
    expect((await all('by=source')).all.leads).to.equal(before.all.leads);
    expect(byCampaign(await all(), ({ leads }) => leads)['short-lived']).to.equal(1);
  });

  it('show an outcome of this moment, and its correction, by themselves', async () => {
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf('a', {
          lanes: {
            lead: [],
            record: [
              freshStep('outcome', 'o', {
                name: 'Hired a cello',
                amount: '{{ answers.paid }}',
                once: 'key',
                key: '{{ answers.order }}',
              }),
            ],
            team: [],
          },
        }),
      ],
      { samePerson: 'run_again' },
    );
    const kinds = async () => (await all()).goals.filter(({ name }) => name === 'Hired a cello');
    await flow.send({ name: 'Cel', email: 'cello@example.org', order: 'A-7', paid: '49.50', utm_campaign: 'strings' });
    const shown = async (amount: number) => {
      const [kind] = await kinds();
      if (!kind) return false;
      const row = (await all(`goal=${kind.kind}`)).all.children.find(({ path }) => path[0] === 'strings');
      return row && row.goal === 1 && (row.money.GBP ?? 0) === amount;
    };
    await until('the outcome to be shown', () => shown(4950));
    // The same order told again is put right, and not counted twice.
    await flow.send({ name: 'Cel', email: 'cello@example.org', order: 'A-7', paid: '30' });
    await until('its correction', () => shown(3000));
    await flow.send({ name: 'Cel', email: 'cello@example.org', order: 'B-1', paid: 'nothing yet' });
    const [kind] = await kinds();
    await until('the second', async () => (await all(`goal=${kind!.kind}`)).all.goal === 2);
  });

  it('note by hand what has happened, and take it back', async () => {
    const { rows: who } = await rows<{ id: string }>(`select id from lead where email = 'cello@example.org'`);
    const path = `/api/leads/${who[0]!.id}/outcomes`;
    const note = (more: object) =>
      oona.call<Refused & { id: string }>('POST', path, { name: 'Rang up', day: '', amount: '', ...more });
    expect((await note({ day: '2199-01-01' })).body.detail).to.match(/still to come/);
    expect((await note({ amount: 'a lot' })).body.detail).to.match(/no amount/);
    expect((await note({ name: ' ' })).status).to.equal(422);
    const { body } = await note({ day: '2026-10-25', amount: '12,50' });
    await reckoned();
    const goal = (await all()).goals.find(({ name }) => name === 'Rang up')!.kind;
    const row = (await all(`goal=${goal}`)).all;
    expect([
      row.goal,
      (await all(`goal=${goal}&basis=happened`)).chart.series[0]?.values.some((n) => n === 1),
    ]).to.deep.equal([1, true]);
    expect((await oona.call('DELETE', `${path}/${body.id}`)).status).to.equal(200);
    expect((await oona.call('DELETE', `${path}/${body.id}`)).status).to.equal(404);
    await reckoned();
    expect((await all(`goal=${goal}`)).all.goal).to.equal(0);
  });

  it('refuse what makes no sense, and show nobody another business', async () => {
    const refusal = async (query: string) => (await oona.call<Refused>('GET', `/api/results?${query}`)).status;
    for (const query of [
      'from=2026-02-30',
      'from=2026-03-01&to=2026-02-01',
      'model=best',
      'by=star',
      'goal=1;drop',
      'from=2001-01-01&to=2020-01-01',
      'period=ever',
    ])
      expect(await refusal(query), query).to.equal(422);
    for (const path of [
      '/results/people?kind=lead&path=nope',
      '/results/way?only=campaign',
      '/results/way?only=workflow:1',
      '/results/replies?from=x',
    ])
      expect((await oona.call('GET', `/api${path}`)).status, path).to.equal(422);
    const { eve } = await otherBusiness(stage);
    const theirs = (await eve.call<WhereFromView>('GET', `/api/results?${EVER}`)).body;
    expect([theirs.all.leads, theirs.all.children]).to.deep.equal([0, []]);
    expect((await eve.call<CostsView>('GET', '/api/results/costs')).body.told).to.deep.equal([]);
  });

  it('say what a group is called that has none, and sort by whatever is known', async () => {
    const whole = (await all()).all.leads;
    for (const by of ['site', 'medium', 'form', 'page', 'source', 'workflow', 'colleague', 'segment']) {
      const view = await all(`by=${by}`);
      expect(view.all.leads, by).to.equal(whole);
      expect(
        view.all.children.reduce((sum, row) => sum + row.leads, 0),
        by,
      ).to.be.closeTo(whole, 1e-6);
    }
  });

  describe('the way through, and the first reply', () => {
    it('count what the plain facts say', async () => {
      const way = (await oona.call<WayView>('GET', `/api/results/way?${EVER}`)).body;
      const { rows: plain } = await rows<Record<string, number>>(
        `select count(*)::int as came, count(answered_at)::int as answered, count(booked_at)::int as booked from lead_result where business_id = $1 and rang`,
        [business],
      );
      const of = (stage: string) => way.way.find((one) => one.stage === stage)!;
      expect([of('came').reached, of('answered').reached, of('booked').reached]).to.deep.equal([
        plain[0]!.came,
        plain[0]!.answered,
        plain[0]!.booked,
      ]);
      // Everybody stops somewhere, once.
      expect(way.way.reduce((sum, { furthest }) => sum + furthest, 0)).to.equal(plain[0]!.came);
      expect(way.weeks.reduce((sum, { came }) => sum + came, 0)).to.equal(plain[0]!.came);
      const one = (
        await oona.call<WayView>(
          'GET',
          `/api/results/way?${EVER}&only=${encodeURIComponent('campaign:piano-evenings')}`,
        )
      ).body;
      expect(one.way[0]!.reached).to.equal(way.campaigns.find(({ name }) => name === 'piano-evenings')!.came);
      for (const group of [...way.campaigns, ...way.workflows]) expect(group.came).to.be.at.most(plain[0]!.came!);
    });
    it('give the median, and within what nine of ten are, as NumPy does', async () => {
      const file = new URL('../reference/results-scipy.json', import.meta.url);
      const { percentiles } = JSON.parse(readFileSync(file, 'utf8')) as {
        percentiles: { seconds: number[]; p50: number; p90: number };
      };
      const { rows: made } = await rows<{ id: number }>(
        `insert into origin (business_id, key, site, medium, campaign, ad_set, ad, form, page) values ($1, 'percentiles', '', '', 'percentiles', '', '', '', '') returning id`,
        [business],
      );
      await rows(
        `insert into lead_result (id, business_id, origin_id, came_at, day, rang, answered_at) select gen_random_uuid(), $1, $2, '2026-05-05T12:00Z', '2026-05-05', true, '2026-05-05T12:00Z'::timestamptz + s * interval '1 s' from unnest($3::float[]) s`,
        [business, made[0]!.id, percentiles.seconds],
      );
      const { way } = (
        await oona.call<WayView>('GET', '/api/results/way?from=2026-05-01&to=2026-05-31&only=campaign:percentiles')
      ).body;
      const answered = way.find((one) => one.stage === 'answered')!;
      expect(answered.reached).to.equal(percentiles.seconds.length);
      expect(answered.median! / 1000).to.be.closeTo(percentiles.p50, 1e-6);
      expect(answered.ninety! / 1000).to.be.closeTo(percentiles.p90, 1e-6);
      await rows('delete from lead_result where origin_id = $1', [made[0]!.id]);
    });
    it('put nobody who was never answered among the fast', async () => {
      const view = (await oona.call<RepliesView>('GET', `/api/results/replies?${EVER}`)).body;
      const { rows: plain } = await rows<{ came: number; fast: number; never: number }>(
        `select count(*)::int as came, count(*) filter (where answered_at - came_at <= interval '5 minutes')::int as fast, count(*) filter (where answered_at is null)::int as never
         from lead_result where business_id = $1 and rang`,
        [business],
      );
      const { came, fast, never } = plain[0]!;
      expect([view.came, view.fast]).to.deep.equal([came, fast]);
      expect(view.hours.reduce((sum, hour) => sum + hour.fast, 0)).to.equal(fast);
      expect(view.waited.reduce((sum, one) => sum + one.never, 0)).to.equal(never);
      expect(view.waited.reduce((sum, one) => sum + one.slow + one.never, 0)).to.equal(came - fast);
    });
  });

  describe('costs', () => {
    const send = (path: string, text: string | Buffer, name = 'ads.csv') =>
      fetch(`${stage.url}/api/results/costs${path}${path.includes('?') ? '&' : '?'}name=${encodeURIComponent(name)}`, {
        method: 'POST',
        headers: { cookie: oona.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
        body: typeof text === 'string' ? text : new Uint8Array(text),
      });
    const cost = async (campaign: string) =>
      (await all()).all.children.find(({ path }) => path[0] === campaign)?.cost ?? {};

    it('come from a file whose columns are understood, and take the place of what was told before', async () => {
      await rows('delete from currency_rate where business_id = $1', [business]);
      const file =
        'Report of ads,,,\nReporting starts,Campaign name,Amount spent (EUR),Ad name\n2026-03-01,lute-week,12.50,a\n2026-03-01,lute-week,2.50,a\n01/04/2026,lute-week,"1,000.00",b\nTotal,,1015.00,\n2026-03-02,lute-week,-4,a\nsoon,lute-week,4,a\n';
      const looked = (await (await send('/look', file)).json()) as LookedAt;
      expect([looked.lines, looked.from, looked.to, looked.sums, looked.missing]).to.deep.equal([
        2,
        '2026-03-01',
        '2026-04-01',
        { EUR: 101_500 },
        null,
      ]);
      expect(looked.left.map(({ row }) => row)).to.deep.equal([6, 7, 8]);
      expect(await (await send('', file)).json()).to.deep.equal({ lines: 2, replaced: 0, left: 3 });
      expect(await cost('lute-week')).to.deep.equal({ EUR: 101_500 });
      // Told again of one day, by whatever file, it is put right and not added.
      expect(await (await send('', 'day\tcampaign\tcost\n2026-03-01\tlute-week\t20\n', 'pasted')).json()).to.deep.equal(
        { lines: 1, replaced: 1, left: 0 },
      );
      expect(await cost('lute-week')).to.deep.equal({ EUR: 100_000, GBP: 2000 });
    });
    it('are asked for again where a column is not known', async () => {
      const file = 'When,What,How much\n2026-03-05,horn-week,7\n';
      const looked = (await (await send('/look', file)).json()) as LookedAt;
      expect(looked.missing).to.equal('Say which column is Day, which is Campaign, which is Cost.');
      expect((await send('', file)).status).to.equal(422);
      const columns = encodeURIComponent(JSON.stringify({ ...looked.mapping, day: 0, campaign: 1, cost: 2 }));
      expect((await send(`?columns=${columns}`, file)).status).to.equal(200);
      expect(await cost('horn-week')).to.deep.equal({ GBP: 700 });
      for (const bad of ['{}', 'x', JSON.stringify({ ...looked.mapping, day: 99 })])
        expect((await send(`?columns=${encodeURIComponent(bad)}`, file)).status, bad).to.equal(422);
      expect((await send('/look', '')).status).to.equal(422);
    });
    it('come from whichever tab of a workbook is meant', async () => {
      const cells = (...row: string[]) =>
        `<row>${row.map((cell) => (/^[\d.]+$/.test(cell) ? `<c><v>${cell}</v></c>` : `<c t="inlineStr"><is><t>${cell}</t></is></c>`)).join('')}</row>`;
      const sheet = (...all: string[]) => Buffer.from(`<worksheet><sheetData>${all.join('')}</sheetData></worksheet>`);
      const book = workbook(
        {
          'xl/worksheets/sheet1.xml': sheet(cells('About this report')),
          'xl/worksheets/sheet2.xml': sheet(
            cells('Date', 'Campaign', 'Spend'),
            cells('2026-03-09', 'oboe-week', '8.25'),
          ),
          'xl/_rels/workbook.xml.rels': Buffer.from(
            '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Target="worksheets/sheet2.xml"/></Relationships>',
          ),
        },
        '<workbook xmlns:r="r"><sheets><sheet name="About" sheetId="1" r:id="rId1"/><sheet name="Ads" sheetId="2" r:id="rId2"/></sheets></workbook>',
      );
      const looked = (await (await send('/look', book)).json()) as LookedAt;
      expect([looked.tabs, looked.tab, looked.missing === null]).to.deep.equal([['About', 'Ads'], 'About', false]);
      expect(await (await send('?tab=Ads', book)).json()).to.include({ lines: 1 });
      expect(await cost('oboe-week')).to.deep.equal({ GBP: 825 });
      expect((await send('?tab=Gone', book)).status).to.equal(422);
    });
    it('are added up only where there is a rate, from its day on', async () => {
      await rows('delete from currency_rate where business_id = $1', [business]);
      expect((await oona.call<CostsView>('GET', '/api/results/costs')).body.unrated).to.include('EUR');
      const rate = (rates: object[]) => oona.call<Refused>('POST', '/api/results/rates', { rates });
      expect((await rate([{ currency: 'GBP', day: '2026-01-01', rate: 1 }])).body.detail).to.match(/your own currency/);
      expect((await rate([{ currency: 'QQQ', day: '2026-01-01', rate: 1 }])).body.detail).to.match(/no currency/);
      expect((await rate([{ currency: 'EUR', day: '2199-01-01', rate: 1 }])).status).to.equal(422);
      expect((await rate([{ currency: 'EUR', day: '2026-04-01', rate: 0.85 }])).status).to.equal(200);
      expect(await cost('lute-week')).to.deep.equal({ GBP: 2000 + 85_000 });
      expect(
        (await oona.call('POST', '/api/results/rates/remove', { currency: 'EUR', day: '2026-04-01' })).status,
      ).to.equal(200);
      expect(await cost('lute-week')).to.deep.equal({ EUR: 100_000, GBP: 2000 });
    });
    it('are fetched from the ad platform, again when it was down, and pushed to an address', async () => {
      const view = async () => (await oona.call<CostsView>('GET', '/api/results/costs')).body;
      const platform = (await view()).platforms[0]!;
      stage.desk.world.state.trouble.adsDown = true;
      const { body: feed } = await oona.call<{ id: string }>('POST', '/api/results/costs/feeds', {
        connectionId: platform.id,
      });
      expect((await oona.call('POST', '/api/results/costs/feeds', { connectionId: platform.id })).status).to.equal(409);
      await until('its trouble to be told', async () => (await view()).feeds[0]!.trouble !== '');
      stage.desk.world.state.trouble.adsDown = false;
      expect((await oona.call('POST', `/api/results/costs/feeds/${feed.id}`)).status).to.equal(200);
      await until('the costs', async () => (await view()).feeds[0]!.lastLines > 0);
      const told = (await view()).told.find(({ via }) => via === platform.name)!;
      expect([told.lines > 60, (await view()).feeds[0]!.trouble]).to.deep.equal([true, '']);
      // Fetched twice it is the same.
      await rows('update cost_feed set next_at = now() where id = $1', [feed.id]);
      await until(
        'the second time',
        async () =>
          (await rows<{ at: Date }>('select last_at as at from cost_feed where next_at > now() and id = $1', [feed.id]))
            .rows[0],
      );
      expect((await view()).told.find(({ via }) => via === platform.name)!.sums.GBP!).to.be.closeTo(
        told.sums.GBP!,
        (told.sums.GBP ?? 0) * 0.2,
      );
      const { body: pushed } = await oona.call<{ id: string }>('POST', '/api/results/costs/feeds', {
        connectionId: null,
      });
      const { address } = (await view()).feeds.find(({ id }) => id === pushed.id)!;
      const push = async (body: string) => {
        const answer = await fetch(address!, { method: 'POST', body });
        return [answer.status, ((await answer.json()) as Refused).detail];
      };
      expect(await push('{"costs":[{"day":"2026-05-01","campaign":"harp-day","cost":9.99}]}')).to.deep.equal([
        200,
        undefined,
      ]);
      expect(
        (
          await push(
            '{"costs":[{"day":"2026-05-02","campaign":"harp-day","cost":1},{"day":"May","campaign":"harp-day","cost":9.99}]}',
          )
        )[1],
      ).to.match(/costs.1: “May” is no date/);
      expect((await push('hello'))[0]).to.equal(422);
      expect(await cost('harp-day')).to.deep.equal({ GBP: 999 });
      expect((await fetch(`${stage.url}/costs/${'x'.repeat(30)}`, { method: 'POST', body: '{}' })).status).to.equal(
        404,
      );
      expect((await oona.call('DELETE', `/api/results/costs/feeds/${pushed.id}`)).status).to.equal(200);
      expect((await push('{}'))[0]).to.equal(404);
    });
  });

  it('show two names as one, and as they came again; the facts stay', async () => {
    const names = async () => (await oona.call<NamesView>('GET', `/api/results/names?${EVER}`)).body;
    const show = (name: string, shownAs: string) =>
      oona.call<Refused>('POST', '/api/results/names', { mark: 'campaign', name, shownAs });
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [freshStep('note', 'n', { text: 'x' })], team: [] } }),
    ]);
    await flow.send({ name: 'Mis', email: 'mis@example.org', utm_campaign: 'Autumn-Trail' });
    await flow.over('mis@example.org');
    await reckoned();
    expect((await names()).alike).to.deep.include({
      mark: 'campaign',
      name: 'Autumn-Trail',
      likely: 'autumn-trial',
      why: 'typo',
    });
    const before = byCampaign(await all(), ({ leads }) => leads);
    expect((await show('Autumn-Trail', 'autumn-trial')).status).to.equal(200);
    const after = byCampaign(await all(), ({ leads }) => leads);
    expect([after['Autumn-Trail'], after['autumn-trial']]).to.deep.equal([undefined, before['autumn-trial']! + 1]);
    expect((await names()).alike.some(({ name }) => name === 'Autumn-Trail')).to.equal(false);
    expect((await show('autumn-trial', 'Autumn-Trail')).status).to.equal(409);
    const { rows: kept } = await rows<{ campaign: string }>(
      `select where_from ->> 'utm_campaign' as campaign from touch t join lead l on l.id = t.lead_id where l.email = 'mis@example.org'`,
    );
    expect(kept[0]!.campaign).to.equal('Autumn-Trail');
    await oona.call('POST', '/api/results/names/as-it-came', { mark: 'campaign', name: 'Autumn-Trail' });
    expect(byCampaign(await all(), ({ leads }) => leads)).to.deep.equal(before);
  });

  it('are a file with the same sums', async () => {
    const text = await (
      await fetch(`${stage.url}/api/results/file?${EVER}&format=csv`, {
        headers: { cookie: oona.cookie },
      })
    ).text();
    const [head, ...lines] = text
      .trim()
      .split(/\r?\n/)
      .map((line) => line.split(','));
    const at = head!.findIndex((name) => name.includes('Leads'));
    expect(lines.reduce((sum, line) => sum + Number(line[at]!.replaceAll('"', '')), 0)).to.equal(
      (await all()).all.leads,
    );
  });

  describe('touches that are no arrivals', () => {
    it('a link of ours that was followed is one, once for each message', async () => {
      const flow = await liveFlow(stage, oona, [
        momentOf('a', {
          lanes: {
            lead: [
              freshStep('email', 'e', {
                subject: 'Look',
                message: 'See https://www.wrenfield.example/trial',
                countLinks: true,
              }),
            ],
            record: [],
            team: [],
          },
        }),
      ]);
      await flow.send({ name: 'Link', email: 'link@example.org', utm_campaign: 'linked' });
      const { lead_id: leadId } = await flow.over('link@example.org');
      const { rows: links } = await rows<{ token: string }>(
        'select token from tracked_link where lead_id = $1 and url is not null',
        [leadId],
      );
      const follow = (agent: string) =>
        fetch(`${stage.url}/l/${links[0]!.token}`, { headers: { 'user-agent': agent }, redirect: 'manual' });
      await follow('curl/8');
      await follow('Mozilla/5.0 (X11; Linux x86_64) Chrome/130.0');
      await follow('Mozilla/5.0 (X11; Linux x86_64) Chrome/130.0');
      const { rows: touches } = await rows<{ where_from: Record<string, string> }>(
        'select where_from from touch where lead_id = $1 order by at',
        [leadId],
      );
      expect(touches.length).to.equal(2);
      expect(touches[1]!.where_from).to.include({
        utm_source: 'own messages',
        utm_medium: 'email',
        landing_page: 'https://www.wrenfield.example/trial',
      });
      await reckoned();
      await sumsAgree();
    });
    it('visits of own pages are put with who fills in a form, before and after it, and with nobody else', async () => {
      await oona.call('POST', '/api/results/sites', { name: 'www.wrenfield.example', asks: true });
      const [site] = (await oona.call<SiteRow[]>('GET', '/api/results/sites')).body;
      const key = /data-site="([^"]+)"/.exec(site!.code)![1];
      const visitor = 'abcdefghijklmnopqrstuv';
      const visit = async (more: object, agent = 'Mozilla/5.0 (X11; Linux x86_64) Chrome/130.0') =>
        (
          await fetch(`${stage.url}/site/${key}`, {
            method: 'POST',
            headers: { 'content-type': 'text/plain', 'user-agent': agent },
            body: JSON.stringify({
              visitor,
              address: 'https://www.wrenfield.example/?utm_source=poster&utm_campaign=town-hall',
              referrer: '',
              device: 'phone',
              consent: 'agreed',
              ...more,
            }),
          })
        ).status;
      expect(await visit({})).to.equal(204);
      expect(await visit({ consent: 'not asked' })).to.equal(204);
      expect(await visit({ visitor: 'zzzzzzzzzzzzzzzzzzzzzz' })).to.equal(204);
      expect(await visit({}, 'SomeBot/1.0 (+http://bot.example)')).to.equal(204);
      expect(await visit({ visitor: 'x' })).to.equal(422);
      expect((await rows<{ n: number }>('select count(*)::int as n from site_visit')).rows[0]!.n).to.equal(2);
      const flow = await liveFlow(stage, oona, [
        momentOf('a', { lanes: { lead: [], record: [freshStep('note', 'n', { text: 'x' })], team: [] } }),
      ]);
      await flow.send({ name: 'Site', email: 'site@example.org', pb_visitor: visitor, utm_campaign: 'later' });
      const { lead_id: leadId } = await flow.over('site@example.org');
      await visit({ address: 'https://www.wrenfield.example/?utm_campaign=afterwards' });
      const touches = async () =>
        (
          await rows<{ where_from: Record<string, string> }>(
            'select where_from from touch where lead_id = $1 order by at',
            [leadId],
          )
        ).rows.map((row) => row.where_from);
      expect((await touches()).map((from) => from.utm_campaign)).to.deep.equal(['town-hall', 'later', 'afterwards']);
      expect((await touches())[0]).to.include({ utm_source: 'poster', device: 'phone', counted: 'agreed' });
      await reckoned();
      // They came in by what brought them first, though nobody knew them then.
      const row = (await all()).all.children.find(({ path }) => path[0] === 'town-hall');
      expect(row?.leads).to.equal(1);
      expect((await oona.call('POST', `/api/leads/${leadId}/erase`, { name: 'Site' })).status).to.equal(200);
      expect(
        (await rows<{ n: number }>('select count(*)::int as n from site_visit where visitor = $1', [visitor])).rows[0]!
          .n,
      ).to.equal(0);
    });
  });

  it('try a step in two versions: halves by chance, decided only when both have their people', async () => {
    const trial = {
      id: crypto.randomUUID(),
      settings: { message: 'B {{ lead.first_name }}' },
      goal: 'replied',
      days: 1,
      perHalf: 20,
    } as const;
    const step = freshStep('text', 't', { message: 'A {{ lead.first_name }}' }, { trial });
    const flow = await liveFlow(stage, oona, [momentOf('a', { lanes: { lead: [step], record: [], team: [] } })]);
    for (let n = 0; n < 12; n++)
      await flow.send({ name: 'Tria', email: `trial${n}@example.org`, phone: `+614915703${10 + n}` });
    await flow.over('trial11@example.org');
    const results = async () =>
      (await oona.call<StepResultsView>('GET', `/api/workflows/${flow.id}/results?within=1`)).body;
    await until('all to be sent', async () => (await results()).rows.reduce((sum, { sent }) => sum + sent, 0) === 12);
    const { rows: sent } = await rows<{ text: string; version: string }>(
      `select d.message ->> 'text' as text, d.message -> 'trial' ->> 'version' as version from delivery d join run r on r.id = d.run_id where r.workflow_id = $1`,
      [flow.id],
    );
    for (const { text, version } of sent) expect(text).to.equal(`${version.toUpperCase()} Tria`);
    const view = await results();
    expect(view.rows.map(({ version }) => version)).to.deep.equal(['a', 'b']);
    expect(view.trials[0]!.verdict).to.deep.equal({ is: 'under_way', left: 40 });
    expect(view.trials[0]!.says).to.match(/^Not decided yet/);
    const same = stepOf('text', 't', step.settings, { trial: { ...trial, settings: {} } });
    expect(
      (
        await flow.put({
          sources: [flow.source.id],
          moments: [momentOf('a', { lanes: { lead: [same], record: [], team: [] } })],
          rules: (
            await oona.call<{ workflow: { draft: { rules: never } } }>('GET', `/api/workflows/${flow.id}`)
          ).body.workflow.draft.rules,
        })
      ).detail,
    ).to.match(/both versions are the same/);
  });

  it('show what has gone back after a month was closed as such, in both months', async () => {
    const { rows: stages } = await rows<{ id: string; pipeline_id: string; ends: string | null }>(
      `select s.id, s.pipeline_id, s.ends from stage s join pipeline p on p.id = s.pipeline_id where p.business_id = $1 and p.name = 'Lessons'`,
      [business],
    );
    const ends = (which: string | null) => stages.find((one) => one.ends === which)!;
    const { rows: who } = await rows<{ id: string }>(
      `select id from lead l where business_id = $1 and is_person and not exists (select from deal d where d.lead_id = l.id) order by id limit 1`,
      [business],
    );
    const deal = crypto.randomUUID();
    await rows(
      `insert into deal (id, business_id, lead_id, pipeline_id, stage_id, title, value, next_step, created_at, moved_at, closed_at) values ($1, $2, $3, $4, $5, 'Harp', 480, '', '2026-06-01', '2026-08-20', '2026-08-20')`,
      [deal, business, who[0]!.id, ends('lost').pipeline_id, ends('lost').id],
    );
    for (const [stage_, at] of [
      [ends('won').id, '2026-06-10'],
      [ends('lost').id, '2026-08-20'],
    ])
      await rows(
        'insert into deal_move (id, deal_id, lead_id, stage_id, at) values (gen_random_uuid(), $1, $2, $3, $4)',
        [...[deal, who[0]!.id, stage_, at]],
      );
    await reckoned();
    const month = async (name: string) =>
      (
        await (await fetch(`${stage.url}/results/month?month=${name}`, { headers: { cookie: oona.cookie } })).text()
      ).replace(/\s+/g, ' ');
    expect(await month('2026-06')).to.include(
      '1 sale came to £480; £480 of the month’s sales has gone back since it ended.',
    );
    expect(await month('2026-08')).to.include('£480 went back, all of it of sales of earlier months.');
    await sumsAgree();
  });

  it('send the page of the month to whom it is to go, once', async () => {
    const set = (more: object) =>
      oona.call<Refused & { nextAt: string }>('PUT', '/api/results/month/mail', { day: 3, recipients: '', ...more });
    expect((await set({ recipients: 'owner@wrenfield.example, nobody' })).body.detail).to.match(/“nobody” is no email/);
    expect((await set({ day: 31, recipients: 'owner@wrenfield.example' })).status).to.equal(422);
    expect((await set({ recipients: 'owner@wrenfield.example, board@wrenfield.example' })).status).to.equal(200);
    await rows(`update month_page set next_at = now() - interval '1 minute'`);
    await rows(`select graphile_worker.add_job('months')`);
    const mails = () => stage.desk.world.state.mails.filter((mail) => /Wrenfield Music School: /.test(mail.subject));
    await until('both emails', () => mails().length === 2);
    await rows(`select graphile_worker.add_job('months')`);
    await until(
      'the job to be done',
      async () =>
        (
          await rows<{ n: number }>(
            `select count(*)::int as n from graphile_worker.jobs where task_identifier = 'months' and run_at <= now()`,
          )
        ).rows[0]!.n === 0,
    );
    expect(mails().length).to.equal(2);
    expect(mails()[0]!.text)
      .to.match(/people came in/)
      .and.match(/\/results\/month\?month=/);
    expect((await set({ recipients: '' })).body).to.equal(null);
  });
});
