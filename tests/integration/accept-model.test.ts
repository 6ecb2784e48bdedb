import { expect } from 'chai';
import fc from 'fast-check';
import pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { SAID_BY, standsAs } from '../../src/core/consent/precedence.ts';
import type { Identity } from '../../src/core/people/identity.ts';
import { PURPOSES, type Purpose } from '../../src/core/workflow/purpose.ts';
import type { Accepted, AcceptItem } from '../../src/db/hot/rows.ts';
import { HotStore } from '../../src/db/hot/store.ts';
import { testDatabase } from '../stage/postgres.ts';

/** What one arrival says, in small: which email and phone of a handful, and which item of the sender's. */
interface Told {
  email: number | null;
  phone: number | null;
  item: number | null;
  name: 'Ada' | 'Bo';
  consent: boolean;
}

const told: fc.Arbitrary<Told> = fc.record({
  email: fc.option(fc.nat(5), { nil: null, freq: 4 }),
  phone: fc.option(fc.nat(5), { nil: null, freq: 3 }),
  item: fc.option(fc.nat(6), { nil: null }),
  name: fc.constantFrom('Ada' as const, 'Bo' as const),
  consent: fc.boolean(),
});

describe('accepting arrivals, against a simple model', function () {
  this.timeout(120_000);
  let pool: pg.Pool;
  before(async () => {
    pool = new pg.Pool({ connectionString: await testDatabase(), max: 8 });
  });
  after(() => pool.end());

  /** A business of its own with one source and one live workflow. */
  async function fresh() {
    const ids = { business: uuidv7(), source: uuidv7(), workflow: uuidv7(), version: uuidv7() };
    await pool.query(
      `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'B', 'GB', 'en-GB', 'UTC', now())`,
      [ids.business],
    );
    await pool.query(
      `insert into source (id, business_id, kind, name, key, settings, card, card_confirmed, state, created_at) values ($1, $2, 'webhook', 'S', $3, '{}', '{}', true, 'live', now())`,
      [ids.source, ids.business, ids.source],
    );
    await pool.query(
      `insert into workflow (id, business_id, name, folder, state, draft, revision, tried_revision, created_at, updated_at) values ($1, $2, 'W', '', 'live', '{}', 0, 0, now(), now())`,
      [ids.workflow, ids.business],
    );
    await pool.query(
      `insert into workflow_version (id, business_id, workflow_id, number, definition, put_live_at) values ($1, $2, $3, 1, '{}', now())`,
      [ids.version, ids.business, ids.workflow],
    );
    await pool.query(
      `insert into listening (source_id, business_id, workflow_id, version_id, same_person) select id, business_id, $2, $3, 'update_only' from source where id = $1`,
      [ids.source, ids.workflow, ids.version],
    );
    return ids;
  }

  function itemOf(ids: { business: string; source: string }, told: Told): AcceptItem {
    const email = told.email === null ? '' : `p${told.email}@example.org`;
    const phone = told.phone === null ? '' : `+4477009000${told.phone}0`;
    const identities: Identity[] = [
      ...(email ? [{ kind: 'email' as const, value: email }] : []),
      ...(phone ? [{ kind: 'phone' as const, value: phone }] : []),
    ];
    return {
      arrival_id: uuidv7(),
      business_id: ids.business,
      source_id: ids.source,
      external_id: told.item === null ? null : `item-${told.item}`,
      received_at: new Date().toISOString(),
      headers: {},
      body: '',
      fields: [],
      where_from: {},
      state: 'read',
      problem: null,
      person: { first_name: told.name, last_name: 'B', email, phone },
      identities,
      answers: {},
      consent: told.consent
        ? {
            state: 'given',
            wording: 'w',
            how: 'h',
            version: '',
            address: '',
            said_by: 'themselves',
            purpose: null,
            channels: ['text', 'email'],
          }
        : null,
      brings: 'people',
      asks_whose: true,
      means: null,
      again: false,
      workflows: null,
      came_at: null,
      new_lead_id: uuidv7(),
      touch_id: uuidv7(),
      run_id: uuidv7(),
      lease_by: 'test',
      lease_seconds: 60,
      needs_you: null,
    };
  }

  it('one after another: the same leads, repeats and runs as a map in memory gives', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(told, { minLength: 1, maxLength: 14 }), async (all) => {
        const ids = await fresh();
        const store = new HotStore(pool);
        const known = new Map<string, string>();
        const items = new Map<string, string>();
        const withRun = new Set<string>();
        const names = new Map<string, string>();
        const others = new Map<string, string>();
        for (const told of all) {
          const item = itemOf(ids, told);
          const got = await store.accept(item);
          if (item.external_id !== null && items.has(item.external_id)) {
            expect(got).to.deep.include({ repeat: true, arrival_id: items.get(item.external_id) });
            continue;
          }
          if (item.external_id !== null) items.set(item.external_id, got.arrival_id);
          const byEmail = told.email === null ? undefined : known.get(item.person.email);
          const byPhone = told.phone === null ? undefined : known.get(item.person.phone);
          // Another name under a known number: a lead of its own, known again by number and name, and nothing of the first is changed.
          const other = byEmail === undefined && byPhone !== undefined && names.get(byPhone) !== told.name;
          const as = `${item.person.phone} ${told.name}`;
          const expected = byEmail ?? (other ? others.get(as) : byPhone);
          expect(got.new_lead, JSON.stringify(told)).to.equal(expected === undefined);
          if (expected !== undefined) expect(got.lead_id).to.equal(expected);
          for (const { value } of item.identities) if (!known.has(value)) known.set(value, got.lead_id!);
          const holder = item.person.phone === '' ? undefined : known.get(item.person.phone);
          if (holder !== undefined && holder !== got.lead_id && !others.has(as)) others.set(as, got.lead_id!);
          names.set(got.lead_id!, told.name);
          // A known person is not run for twice.
          expect(got.runs!.length).to.equal(withRun.has(got.lead_id!) ? 0 : 1);
          withRun.add(got.lead_id!);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('all at once, by two processes: every identity has one lead, every item one arrival, every new lead one active run', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(told, { minLength: 4, maxLength: 40 }), async (all) => {
        const ids = await fresh();
        const stores = [new HotStore(pool), new HotStore(pool)];
        const got: Accepted[] = await Promise.all(all.map((told, i) => stores[i % 2]!.accept(itemOf(ids, told))));
        const count = async (sql: string) => Number((await pool.query(sql, [ids.business])).rows[0].n);
        const read = got.filter((accepted) => !accepted.repeat);
        expect(await count('select count(*) as n from arrival where business_id = $1')).to.equal(read.length);
        expect(await count('select count(*) as n from lead where business_id = $1')).to.equal(
          read.filter((accepted) => accepted.new_lead).length,
        );
        const items = all.flatMap((told) => (told.item === null ? [] : [told.item]));
        expect(
          await count('select count(*) as n from arrival where business_id = $1 and external_id is not null'),
        ).to.equal(new Set(items).size);
        expect(await count('select coalesce(sum(repeats), 0) as n from arrival where business_id = $1')).to.equal(
          got.length - read.length,
        );
        expect(await count(`select count(*) as n from run where business_id = $1 and state = 'active'`)).to.equal(
          await count('select count(*) as n from lead where business_id = $1'),
        );
        expect(await count(`select count(*) as n from run where business_id = $1`)).to.equal(read.length);
        // Consent only where it was given.
        expect(await count(`select count(*) as n from consent where business_id = $1 and state = 'given'`)).to.equal(
          2 * read.filter((accepted) => all[got.indexOf(accepted)]!.consent).length,
        );
      }),
      { numRuns: 25 },
    );
  });

  it('taken in together or one by one, with or without the short way for people nobody knows: the same is stored and told', async () => {
    const stored = async (business: string) => {
      const { rows } = await pool.query(
        `select l.first_name, l.last_name, l.email, l.phone, l.answers, l.is_person,
           (select jsonb_agg(i.kind || ' ' || i.value order by i.kind, i.value) from lead_identity i where i.lead_id = l.id) as identities,
           (select jsonb_agg(jsonb_build_object('item', a.external_id, 'state', a.state, 'means', a.means, 'repeats', a.repeats, 'fields', a.fields, 'body', a.body,
             'where', a.where_from) order by a.received_at, a.external_id) from arrival a where a.lead_id = l.id) as arrivals,
           (select jsonb_agg(jsonb_build_object('where', t.where_from) order by t.at) from touch t where t.lead_id = l.id) as touches,
           (select jsonb_agg(to_jsonb(c) - 'id' - 'lead_id' - 'arrival_id' - 'business_id' order by c.at, c.channel) from consent c where c.lead_id = l.id) as consents,
           (select jsonb_agg(jsonb_build_object('state', r.state, 'outcome', r.outcome, 'came', r.came_at, 'lease', r.lease_by, 'due', r.due_at is not null)
             order by r.created_at, r.state) from run r where r.lead_id = l.id) as runs
         from lead l where l.business_id = $1 order by l.created_at, l.email, l.phone, l.first_name`,
        [business],
      );
      return rows;
    };
    const consents = fc.record({
      state: fc.constantFrom('given' as const, 'unticked' as const),
      purpose: fc.constantFrom(null, ...PURPOSES),
      channels: fc.subarray(['text', 'email', 'chat'] as const, { minLength: 1 }),
    });
    const more = fc.record({
      told,
      consents,
      where: fc.boolean(),
      asks: fc.boolean(),
      means: fc.constantFrom(null, 'booked' as const),
      runs: fc.constantFrom('whoever listens' as const, 'none' as const, 'this one' as const),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(more, { minLength: 1, maxLength: 14 }), fc.nat(10), async (all, cut) => {
        const start = Date.UTC(2026, 10, 27, 9);
        const items = (ids: { business: string; source: string; workflow: string; version: string }) =>
          all.map((one, i): AcceptItem => {
            const item = itemOf(ids, one.told);
            return {
              ...item,
              received_at: new Date(start + i * 1000).toISOString(),
              body: Buffer.from(`body ${i}`).toString('base64'),
              fields: [{ key: 'n', label: 'N', value: String(i) }],
              where_from: one.where ? { campaign: 'autumn' } : {},
              answers: { n: String(i) },
              asks_whose: one.asks,
              means: one.means,
              workflows:
                one.runs === 'whoever listens'
                  ? null
                  : one.runs === 'none'
                    ? []
                    : [
                        {
                          workflow_id: ids.workflow,
                          version_id: ids.version,
                          same_person: 'run_again',
                          again_after_days: 30,
                          known_by: 'workflow',
                        },
                      ],
              consent: item.consent && { ...item.consent, ...one.consents, channels: [...one.consents.channels] },
            };
          });
        const [together, apart] = [await fresh(), await fresh()];
        const store = new HotStore(pool);
        const batch = items(together);
        const got = [
          ...(await store.acceptTogether(batch.slice(0, cut)))!,
          ...(await store.acceptTogether(batch.slice(cut)))!,
        ];
        const plain: Accepted[] = [];
        // What does not say whether it is handled again does not go the short way.
        for (const item of items(apart)) plain.push(await store.accept({ ...item, again: null as unknown as boolean }));
        const leads = (list: Accepted[]) =>
          new Map([...new Set(list.map((accepted) => accepted.lead_id))].map((id, n) => [id, n]));
        const readable = (list: Accepted[]) => {
          const numbers = leads(list);
          return list.map(({ item: _, arrival_id: __, lead_id, runs, ...one }) => ({
            ...one,
            lead: numbers.get(lead_id),
            runs: runs?.length,
          }));
        };
        expect(readable(got)).to.deep.equal(readable(plain));
        expect(await stored(together.business)).to.deep.equal(await stored(apart.business));
      }),
      { numRuns: 60 },
    );
  });

  it('what counts of a consent is the same in the database as in the core, whatever was said by whom in which order', async () => {
    const ids = await fresh();
    const store = new HotStore(pool);
    let n = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            saidBy: fc.constantFrom(...SAID_BY),
            state: fc.constantFrom('given' as const, 'unticked' as const, 'withdrawn' as const),
            at: fc.nat(4),
            purpose: fc.constantFrom(null, ...PURPOSES),
          }),
          { maxLength: 10 },
        ),
        async (said) => {
          n += 1;
          const item = itemOf(ids, { email: null, phone: null, item: null, name: 'Ada', consent: false });
          const { lead_id } = await store.accept({
            ...item,
            identities: [{ kind: 'email', value: `n${n}@example.org` }],
          });
          // In the order of their time, as they are said; the database goes by id where two have the same.
          const ordered = [...said].sort((a, b) => a.at - b.at);
          for (const one of ordered)
            await pool.query(
              `insert into consent (id, business_id, lead_id, channel, purpose, state, said_by, wording, how, at) values ($1, $2, $3, 'text', $4, $5, $6, '', '', to_timestamp($7))`,
              [uuidv7(), ids.business, lead_id, one.purpose, one.state, one.saidBy, one.at],
            );
          const wishes = await store.wishesOf(lead_id!);
          const about = (purpose: Purpose) => standsAs(ordered.filter((one) => (one.purpose ?? purpose) === purpose));
          expect(wishes.consent.text ?? 'unknown', JSON.stringify(ordered)).to.equal(about('service'));
          expect(wishes.marketing.text ?? 'unknown', JSON.stringify(ordered)).to.equal(about('marketing'));
        },
      ),
      { numRuns: 150 },
    );
  });

  it('due runs are taken by one process only, and a lease that is kept up is not taken', async () => {
    const ids = await fresh();
    const store = new HotStore(pool);
    const made = await Promise.all(
      Array.from({ length: 30 }, () =>
        store.accept({
          ...itemOf(ids, { email: null, phone: null, item: null, name: 'Ada', consent: false }),
          lease_seconds: 0,
        }),
      ),
    );
    const runIds = new Set(made.flatMap((accepted) => accepted.runs!.map((run) => run.run_id)));
    const takers = await Promise.all(['a', 'b', 'c', 'd'].map((holder) => store.takeDue(holder, 60, 20)));
    const taken = takers
      .flat()
      .map(({ run }) => run.id)
      .filter((id) => runIds.has(id));
    expect(new Set(taken).size).to.equal(taken.length);
    expect(taken.length).to.equal(30);
    expect((await store.takeDue('e', 60, 100)).filter(({ run }) => runIds.has(run.id))).to.deep.equal([]);
    const mine = takers[0]!.map(({ run }) => run.id);
    expect(await store.renew('b', 60, mine)).to.deep.equal(new Set());
    expect(await store.renew('a', 0, mine)).to.deep.equal(new Set(mine));
    expect((await store.takeDue('e', 60, 100)).map(({ run }) => run.id).sort()).to.deep.equal([...mine].sort());
  });

  it('a process that lost its lease cannot finish the run', async () => {
    const ids = await fresh();
    const store = new HotStore(pool);
    const { runs } = await store.accept({
      ...itemOf(ids, { email: null, phone: null, item: null, name: 'Ada', consent: false }),
      lease_seconds: 0,
    });
    const id = runs![0]!.run_id;
    await store.takeDue('other', 60, 100);
    const done = {
      id,
      state: 'done' as const,
      outcome: 'x',
      finished_at: new Date().toISOString(),
      due_at: null,
      first_reply_at: null,
      moment_id: null,
      moment_at: null,
    };
    await store.write({ runs: [{ ...done, lease_by: 'test' }] });
    expect((await pool.query('select state from run where id = $1', [id])).rows[0].state).to.equal('active');
    await store.write({ runs: [{ ...done, lease_by: 'other' }] });
    expect((await pool.query('select state, due_at from run where id = $1', [id])).rows[0]).to.deep.equal({
      state: 'done',
      due_at: null,
    });
  });

  it('one item that cannot be stored fails alone; the rest of its batch is accepted', async () => {
    const ids = await fresh();
    const store = new HotStore(pool);
    const good = () => itemOf(ids, { email: null, phone: null, item: null, name: 'Ada', consent: false });
    const results = await Promise.allSettled([
      store.accept(good()),
      store.accept({ ...good(), received_at: 'not a time' }),
      store.accept(good()),
    ]);
    expect(results.map((result) => result.status)).to.deep.equal(['fulfilled', 'rejected', 'fulfilled']);
  });
});
